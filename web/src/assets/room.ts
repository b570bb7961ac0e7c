// What plugs in.
import type { Room } from '../shell/room.ts';

export const assets: Room = {
  name: 'assets',
  pages: [
    { path: 'register/history', load: async () => (await import('./history.tsx')).HistoryPage },
    { path: 'assets/tag/:tag', load: async () => (await import('./by-tag.tsx')).AssetByTag },
    { path: 'assets/:id', load: async () => (await import('./asset.tsx')).AssetPage },
  ],
  found: [
    {
      kind: 'asset',
      group: 'Assets',
      open: (hit) => `/assets/${hit.id}`,
      act: (hit) => `/call?asset=${hit.id}`,
    },
  ],
};
