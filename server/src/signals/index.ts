import type { Room } from '../room.ts';
import { countSignals } from './count.ts';
import { signalRoutes } from './routes.ts';
import { alertRuleRoutes } from './rules.ts';

export { linkBroker, type BrokerLink } from './broker.ts';
export { takePack } from './take.ts';

export const signals: Room = {
  name: 'signals',
  routes: [signalRoutes, alertRuleRoutes],
  count: countSignals,
};
