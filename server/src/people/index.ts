import type { Room } from '../room.ts';
import { accessRoutes } from './routes.ts';
import { sessionRoutes } from './session.ts';

export { sweepTries } from './throttle.ts';

export const people: Room = {
  name: 'people',
  routes: [sessionRoutes, accessRoutes],
};
