import type { Room } from '../room.ts';
import { entitlementRoutes } from './routes.ts';

export { allowanceState, bookDraws, drawHours, giveBack } from './allowances.ts';
export { coverBands } from './bands.ts';
export { everHeld, machinesReached, namedLines, reachOf, type LineReach, type Machine } from './reach.ts';
export { coversOf, reachOfLine, type CoverSubject } from './covers.ts';
export {
  sayPromises,
  serviceLevelsOf,
  takeDecision,
  takeDecisions,
  verdictOutOf,
  visitVerdicts,
  type BeyondRight,
  type DecidedVisit,
  type Taken,
} from './verdicts.ts';

export const entitlement: Room = {
  name: 'entitlement',
  routes: [entitlementRoutes],
};
