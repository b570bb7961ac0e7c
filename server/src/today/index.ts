import { endingSoon } from '../orders/index.ts';
import type { Room } from '../room.ts';

/** It only shows what the other rooms bring; its number is that of the promises which end within a day. */
export const today: Room = {
  name: 'today',
  count: (db, { now }) => endingSoon(db, now),
};
