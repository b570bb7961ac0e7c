import type { Room } from '../room.ts';
import { sweepingSessions } from './jobs.ts';
import { lookRoutes } from './looks.ts';
import { accessRoutes } from './routes.ts';
import { sessionRoutes } from './session.ts';

export const people: Room = {
  name: 'people',
  routes: [sessionRoutes, accessRoutes, lookRoutes],
  jobs: [sweepingSessions],
};
