// What plugs in.
import { readNumbering } from '#api/agreements/index.ts';
import type { Room } from '../shell/room.ts';

export const setup: Room = {
  name: 'setup',
  rail: { word: 'Setup', path: '/setup', key: ',', shown: readNumbering },
  pages: [{ path: 'setup/:part?', load: async () => (await import('./setup.tsx')).SetupRoom }],
};
