import type { Room } from '../room.ts';
import { DAY_SENT } from './messages.ts';
import { rotaPeopleRoutes, rotaRoutes } from './routes.ts';

export const rota: Room = {
  name: 'rota',
  routes: [rotaRoutes, rotaPeopleRoutes],
  messages: [DAY_SENT],
};
