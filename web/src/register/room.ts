// What plugs in.
import type { Room } from '../shell/room.ts';

export const register: Room = {
  name: 'register',
  rail: { word: 'Register', path: '/register', key: 'r' },
  pages: [{ path: 'register', load: async () => (await import('./register.tsx')).RegisterRoom }],
};
