// What plugs in.
import { listParts } from '#api/stores.ts';
import type { Room } from '../shell/room.ts';

export const stores: Room = {
  name: 'stores',
  rail: { word: 'Stores', path: '/stores', key: 'p', shown: listParts },
  pages: [
    { path: 'stores', load: async () => (await import('./parts.tsx')).PartsRoom },
    { path: 'stores/all', load: async () => (await import('./stores.tsx')).StoresRoom },
    { path: 'stores/all/:id', load: async () => (await import('./shelves.tsx')).StoreRoom },
    { path: 'stores/parts/:id', load: async () => (await import('./part.tsx')).PartRoom },
  ],
};
