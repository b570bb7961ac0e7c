import type { Room } from '../room.ts';
import { answeringOrders, askingForOpenOrders } from './asking.ts';
import { coveringNeeds } from './covering.ts';
import { needsDerived, stockDerived } from './derived.ts';
import { partsFoundBy } from './finder.ts';
import { lookingForLow, workingOutFigures } from './jobs.ts';
import { PURCHASE_SENT } from './messages.ts';
import { partRoutes } from './part-routes.ts';
import { purchaseRoutes } from './purchase-routes.ts';
import { storesRoutes } from './routes.ts';
import { stockRoutes } from './stock-routes.ts';

export { appendMoves, type Asked as AskedMove } from './ledger.ts';
export { countInVan } from './counts.ts';
export { cover as coverNeedsOf } from './covering.ts';
export { askForParts, type NewNeed } from './needs.ts';
export { keepFigures } from './figures.ts';
export { keepProposals } from './reordering.ts';
export { needMoreOf, needsShown } from './order-needs.ts';
export { arrivedIn, receiveIn } from './arrivals.ts';
export { vanOfPerson } from './own-van.ts';
export { askForVan, asksOf } from './van-asks.ts';
export { handOverFromVan } from './van.ts';
export { orderToBookOn, usedOn, useOn } from './used.ts';

answeringOrders();

export const stores: Room = {
  name: 'stores',
  found: [partsFoundBy],
  routes: [storesRoutes, stockRoutes, partRoutes, purchaseRoutes],
  messages: [PURCHASE_SENT],
  jobs: [coveringNeeds, askingForOpenOrders, lookingForLow, workingOutFigures],
  derived: [stockDerived, needsDerived],
};
