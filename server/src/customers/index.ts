import type { Room } from '../room.ts';
import { customersFound } from './finder.ts';
import { customerRoutes } from './routes.ts';

export { addContact, giveAddress } from './commands.ts';
export { creditGrace, followCredit, markCredit } from './credit.ts';
export { customersFound, indexCustomers } from './finder.ts';
export { listCustomers, popUpsOf } from './queries.ts';

export const customers: Room = {
  name: 'customers',
  routes: [customerRoutes],
  found: [customersFound],
};
