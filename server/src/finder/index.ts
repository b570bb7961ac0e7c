import type { Room } from '../room.ts';
import { finderRoutes } from './routes.ts';

export const finder: Room = {
  name: 'finder',
  routes: [finderRoutes],
};
