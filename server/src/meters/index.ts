import type { Room } from '../room.ts';
import { meterRoutes } from './routes.ts';

export { metersOfAssets } from './of-assets.ts';
export { metersOf } from './routes.ts';
export { readMeterIn, writeReading } from './readings.ts';

export const meters: Room = {
  name: 'meters',
  routes: [meterRoutes],
};
