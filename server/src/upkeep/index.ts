import type { Room } from '../room.ts';
import { keepPlan, planning, raisingAtNight, takingUpRuns } from './jobs.ts';
import { careLane } from './ribbon.ts';
import { upkeepRoutes } from './routes.ts';

export { visitsOtherwise } from './by-calendar.ts';
export { addFor, coveredBy, mustNotHaveEnded } from './adding.ts';
export { computeRun } from './owed.ts';
export { addLineSchedule } from './members.ts';
export { checkReferences, termColumns } from './terms.ts';
export { keepPlanned } from './planning.ts';
export { onThread as onUpkeepThread } from './pool.ts';
export { previewRun } from './preview.ts';
export { beginRun, carryOutRun, runOf } from './runs.ts';

export const upkeep: Room = {
  name: 'upkeep',
  routes: [upkeepRoutes],
  jobs: [planning, raisingAtNight, takingUpRuns],
  keep: keepPlan,
  lane: careLane,
};
