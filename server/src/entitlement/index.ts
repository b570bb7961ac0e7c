export { allowanceState, bookDraws, drawHours, giveBack, lockWarranties } from './allowances.ts';
export { coversOf, reachOfLine, type CoverSubject } from './covers.ts';
export { entitlementRoutes } from './routes.ts';
export { sayPromises, serviceLevelsOf, takeDecision, verdictOutOf, visitVerdicts, type Taken } from './verdicts.ts';
