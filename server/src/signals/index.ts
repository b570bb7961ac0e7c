import type { Room } from '../room.ts';
import { linkBroker } from './broker.ts';
import { countSignals } from './count.ts';
import { signalRoutes } from './routes.ts';
import { alertRuleRoutes } from './rules.ts';

export { alertCurves } from './queries.ts';
export { takePack } from './take.ts';

export const signals: Room = {
  name: 'signals',
  routes: [signalRoutes, alertRuleRoutes],
  count: countSignals,
  keep: (house, log) => linkBroker(house, log),
};
