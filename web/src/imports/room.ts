// What plugs in.
import type { Room } from '../shell/room.ts';

export const imports: Room = {
  name: 'imports',
  pages: [{ path: 'register/import', load: async () => (await import('./import.tsx')).ImportPage }],
};
