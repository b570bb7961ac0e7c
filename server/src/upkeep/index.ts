import type { Room } from '../room.ts';
import { upkeepRoutes } from './routes.ts';

export { commitRun, computeRun, previewRun } from './run.ts';

export const upkeep: Room = {
  name: 'upkeep',
  routes: [upkeepRoutes],
};
