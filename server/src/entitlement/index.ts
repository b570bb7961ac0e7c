export { coversOf, type CoverSubject } from './covers.ts';
export { sayPromises, serviceLevelsOf, takeDecision, type Taken } from './verdicts.ts';
