import type { Room } from '../room.ts';
import { settleRoutes } from './routes.ts';

export { addCostTo } from './others.ts';
export { chargesOf } from './of-order.ts';
export { dueOf, leaveToInvoice, showsPrice } from './payments.ts';

export const settle: Room = {
  name: 'settle',
  routes: [settleRoutes],
};
