// What plugs in.
import { listOutbox } from '#api/outbox.ts';
import type { Room } from '../shell/room.ts';

export const outbox: Room = {
  name: 'outbox',
  setup: [
    { path: 'outbox', word: 'Outbox', shown: listOutbox, load: async () => (await import('./outbox.tsx')).Outbox },
  ],
};
