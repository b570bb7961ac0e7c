import type { Room } from '../room.ts';
import { fieldRoutes } from './routes.ts';

export const field: Room = {
  name: 'field',
  routes: [fieldRoutes],
};
