import type { Room } from '../room.ts';
import { reporting, reportingDone } from './report.ts';
import { fieldRoutes } from './routes.ts';

reportingDone();

export const field: Room = {
  name: 'field',
  routes: [fieldRoutes],
  jobs: [reporting],
};
