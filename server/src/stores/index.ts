import type { Room } from '../room.ts';
import { stockDerived } from './derived.ts';
import { storesRoutes } from './routes.ts';
import { stockRoutes } from './stock-routes.ts';

export { appendMoves, type Asked as AskedMove } from './ledger.ts';
export { orderToBookOn, usedOn } from './used.ts';

export const stores: Room = {
  name: 'stores',
  routes: [storesRoutes, stockRoutes],
  derived: [stockDerived],
};
