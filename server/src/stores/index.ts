import type { Room } from '../room.ts';
import { answeringOrders } from './asking.ts';
import { coveringNeeds } from './covering.ts';
import { needsDerived, stockDerived } from './derived.ts';
import { storesRoutes } from './routes.ts';
import { stockRoutes } from './stock-routes.ts';

export { appendMoves, type Asked as AskedMove } from './ledger.ts';
export { orderToBookOn, usedOn } from './used.ts';

answeringOrders();

export const stores: Room = {
  name: 'stores',
  routes: [storesRoutes, stockRoutes],
  jobs: [coveringNeeds],
  derived: [stockDerived, needsDerived],
};
