import type { Room } from '../room.ts';
import { OFFER_SENT } from './messages.ts';
import { offerRoutes } from './routes.ts';

export const offers: Room = {
  name: 'offers',
  routes: [offerRoutes],
  messages: [OFFER_SENT],
};
