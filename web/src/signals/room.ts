// What plugs in.
import type { Room } from '../shell/room.ts';

export const signals: Room = {
  name: 'signals',
  rail: { word: 'Signals', path: '/signals', key: 's' },
  pages: [{ path: 'signals', load: async () => (await import('./signals.tsx')).SignalsRoom }],
  today: [{ place: 3, card: async () => (await import('./today.tsx')).AlertsCard }],
};
