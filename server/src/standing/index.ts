import type { Room } from '../room.ts';
import { standingRoutes } from './routes.ts';

export { standingRows, standingTotal } from './queries.ts';

export const standing: Room = {
  name: 'standing',
  routes: [standingRoutes],
};
