// What plugs in.
import { listParts } from '#api/stores.ts';
import type { Room } from '../shell/room.ts';

export const stores: Room = {
  name: 'stores',
  rail: { word: 'Stores', path: '/stores', key: 'p', shown: listParts },
  pages: [{ path: 'stores', load: async () => (await import('./parts.tsx')).PartsRoom }],
};
