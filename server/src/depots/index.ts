import type { Room } from '../room.ts';
import { depotRoutes } from './routes.ts';

export const depots: Room = {
  name: 'depots',
  routes: [depotRoutes],
};
