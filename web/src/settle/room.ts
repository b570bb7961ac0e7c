// What plugs in.
import { addTax } from '#api/settle.ts';
import type { Room } from '../shell/room.ts';

export const settle: Room = {
  name: 'settle',
  setup: [{ path: 'taxes', word: 'Taxes', shown: addTax, load: async () => (await import('./taxes.tsx')).Taxes }],
};
