import type { Room } from '../room.ts';
import { delivering } from './delivering.ts';
import { outboxRoutes } from './routes.ts';

export { idOfSent } from './gateways.ts';
export { followPhone, leavePhone } from './phones.ts';
export { tellOutside, tellPeople, type Telling } from './telling.ts';

export const outbox: Room = {
  name: 'outbox',
  routes: [outboxRoutes],
  jobs: [delivering],
};
