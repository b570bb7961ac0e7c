import type { Room } from '../room.ts';
import { offersFound } from './finder.ts';
import { OFFER_SENT } from './messages.ts';
import { offerRoutes } from './routes.ts';

export const offers: Room = {
  name: 'offers',
  routes: [offerRoutes],
  found: [offersFound],
  messages: [OFFER_SENT],
};
