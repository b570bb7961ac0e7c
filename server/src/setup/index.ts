import type { Room } from '../room.ts';
import { referenceRoutes } from './routes.ts';

export const setup: Room = {
  name: 'setup',
  routes: [referenceRoutes],
};
