import type { Room } from '../room.ts';
import { keepOutlook, lookingOut } from './jobs.ts';
import { careLane } from './ribbon.ts';
import { upkeepRoutes } from './routes.ts';

export { lookOut } from './outlook.ts';
export { computeRun } from './owed.ts';
export { onThread as onUpkeepThread } from './pool.ts';
export { previewRun } from './preview.ts';
export { commitRun } from './raise.ts';

export const upkeep: Room = {
  name: 'upkeep',
  routes: [upkeepRoutes],
  jobs: [lookingOut],
  keep: keepOutlook,
  lane: careLane,
};
