export { allowanceState, bookDraws, drawHours, giveBack } from './allowances.ts';
export { coversOf, reachOfLine, type CoverSubject } from './covers.ts';
export { entitlementRoutes } from './routes.ts';
export {
  sayPromises,
  serviceLevelsOf,
  takeDecision,
  verdictOutOf,
  visitVerdicts,
  type BeyondRight,
  type Taken,
} from './verdicts.ts';
