// What plugs in.
import { readStanding } from '#api/standing.ts';
import type { Room } from '../shell/room.ts';

export const standing: Room = {
  name: 'standing',
  rail: { word: 'Standing', path: '/standing', key: 'n', shown: readStanding },
  pages: [
    { path: 'standing', load: async () => (await import('./standing.tsx')).StandingRoom },
    { path: 'standing/months', load: async () => (await import('./months.tsx')).MonthsRoom },
    { path: 'standing/reliability', load: async () => (await import('./reliability.tsx')).ReliabilityRoom },
    { path: 'standing/place/:id', load: async () => (await import('./place.tsx')).PlaceRoom },
    { path: 'standing/review/:id', load: async () => (await import('./review.tsx')).ReviewRoom },
    { path: 'orders/:id/clocks', load: async () => (await import('./derivations.tsx')).DerivationsRoom },
  ],
};
