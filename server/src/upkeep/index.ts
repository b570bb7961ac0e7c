import type { Room } from '../room.ts';
import { keepOutlook, lookingOut } from './jobs.ts';
import { upkeepRoutes } from './routes.ts';

export { lookOut } from './outlook.ts';
export { commitRun, computeRun, previewRun } from './run.ts';

export const upkeep: Room = {
  name: 'upkeep',
  routes: [upkeepRoutes],
  jobs: [lookingOut],
  keep: keepOutlook,
};
