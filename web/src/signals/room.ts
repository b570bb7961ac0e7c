// What plugs in.
import type { Room } from '../shell/room.ts';

export const signals: Room = {
  name: 'signals',
  rail: { word: 'Signals', path: '/signals', key: 's' },
  pages: [
    { path: 'signals', load: async () => (await import('./signals.tsx')).SignalsRoom },
    { path: 'signals/watch', load: async () => (await import('./watch.tsx')).WatchRoom },
    { path: 'signals/figures', load: async () => (await import('./figures.tsx')).FiguresRoom },
    { path: 'signals/devices', load: async () => (await import('./devices.tsx')).DevicesRoom },
  ],
  today: [{ place: 3, card: async () => (await import('./today.tsx')).AlertsCard }],
};
