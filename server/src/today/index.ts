import type { Room } from '../room.ts';
import { countToday } from './count.ts';
import { todayRoutes } from './routes.ts';

export const today: Room = {
  name: 'today',
  routes: [todayRoutes],
  count: countToday,
};
