import type { Room } from '../room.ts';
import { importRoutes } from './routes.ts';

export { claimImport } from './worker.ts';
export { onThread } from './pool.ts';

export const imports: Room = {
  name: 'imports',
  routes: [importRoutes],
};
