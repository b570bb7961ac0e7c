// What plugs in.
import type { Room } from '../shell/room.ts';

export const places: Room = {
  name: 'places',
  found: [{ kind: 'location', group: 'Places', open: (hit) => `/register?customer=${hit.under}&location=${hit.id}` }],
};
