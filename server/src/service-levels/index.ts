import type { Room } from '../room.ts';
import { serviceLevelRoutes } from './routes.ts';

export const serviceLevels: Room = {
  name: 'service-levels',
  routes: [serviceLevelRoutes],
};
