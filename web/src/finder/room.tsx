// What plugs in: it floats over every page.
import type { Room } from '../shell/room.ts';

/** Over the rooms whose things it finds. */
export const finderOver = (rooms: readonly Room[]): Room => ({
  name: 'finder',
  floats: {
    word: 'find',
    key: '/',
    load: async () => {
      const { Finder } = await import('./finder.tsx');
      const found = rooms.flatMap((room) => room.found ?? []);
      return function FinderOverRooms(floating) {
        return <Finder found={found} {...floating} />;
      };
    },
  },
});
