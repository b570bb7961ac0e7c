// What plugs in.
import type { Room } from '../shell/room.ts';

export const customers: Room = {
  name: 'customers',
  found: [{ kind: 'customer', group: 'Customers', open: (hit) => `/register?customer=${hit.id}` }],
};
