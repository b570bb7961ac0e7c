// What plugs in.
import type { Room } from '../shell/room.ts';

export const today: Room = {
  name: 'today',
  rail: { word: 'Today', path: '/', key: 't' },
  pages: [{ path: '/', load: async () => (await import('./today.tsx')).TodayRoom }],
};
