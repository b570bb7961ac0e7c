import type { FastifyBaseLogger } from 'fastify';
import type { House } from '../platform/http.ts';
import type { Going, Room } from '../room.ts';
import { ALERT_MESSAGE } from './escalating.ts';
import { linkBroker } from './broker.ts';
import { keepingReadings } from './storing.ts';
import { countSignals } from './count.ts';
import { keepWatching } from './keep-watching.ts';
import { signalRoutes } from './routes.ts';
import { alertActRoutes } from './alert-acts.ts';
import { alertRuleRoutes } from './rules.ts';

export { letTimeGoOn } from './keep-watching.ts';
export { alertCurves } from './evidence.ts';
export { takePack } from './take.ts';

/** What readings bring and what time brings, kept going together. */
function keepGoing(house: House, log: FastifyBaseLogger): Going {
  const [broker, watching] = [linkBroker(house, log), keepWatching(house, log)];
  return {
    ...(broker && { isUp: () => broker.isUp?.() ?? true }),
    async stop() {
      await Promise.all([broker?.stop(), watching.stop()]);
    },
  };
}

export const signals: Room = {
  name: 'signals',
  routes: [signalRoutes, alertRuleRoutes, alertActRoutes],
  count: countSignals,
  jobs: [keepingReadings],
  keep: keepGoing,
  messages: [ALERT_MESSAGE],
};
