import type { Room } from '../room.ts';
import { countDead } from './count.ts';
import { jobRoutes } from './routes.ts';
import { sweepingJobs } from './sweeping.ts';

export const jobs: Room = {
  name: 'jobs',
  routes: [jobRoutes],
  jobs: [sweepingJobs],
  count: countDead,
};
