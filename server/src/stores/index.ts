import type { Room } from '../room.ts';
import { storesRoutes } from './routes.ts';

export { orderToBookOn, usedOn } from './used.ts';

export const stores: Room = {
  name: 'stores',
  routes: [storesRoutes],
};
