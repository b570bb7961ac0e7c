import type { Room } from '../room.ts';
import { meterRoutes } from './routes.ts';

export { metersOf } from './routes.ts';
export { writeReading } from './readings.ts';

export const meters: Room = {
  name: 'meters',
  routes: [meterRoutes],
};
