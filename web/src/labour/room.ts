// What plugs in.
import { readRates, readWeek } from '#api/labour.ts';
import type { Room } from '../shell/room.ts';

export const labour: Room = {
  name: 'labour',
  rail: { word: 'Hours', path: '/hours', key: 'w', shown: readWeek },
  pages: [
    { path: 'hours/:person?/:week?', load: async () => (await import('./hours.tsx')).HoursRoom },
    { path: 'hours/month/:month?', load: async () => (await import('./month.tsx')).MonthRoom },
  ],
  setup: [{ path: 'rates', word: 'Rates', shown: readRates, load: async () => (await import('./rates.tsx')).Rates }],
};
