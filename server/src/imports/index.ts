import type { Room } from '../room.ts';
import { loadingImports } from './jobs.ts';
import { importRoutes } from './routes.ts';

export { onThread } from './pool.ts';

export const imports: Room = {
  name: 'imports',
  routes: [importRoutes],
  jobs: [loadingImports],
};
