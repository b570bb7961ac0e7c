import type { Room } from '../room.ts';
import { sweepingSessions } from './jobs.ts';
import { accessRoutes } from './routes.ts';
import { sessionRoutes } from './session.ts';

export const people: Room = {
  name: 'people',
  routes: [sessionRoutes, accessRoutes],
  jobs: [sweepingSessions],
};
