import type { Room } from '../room.ts';
import { labourRoutes } from './routes.ts';

export { cardFor, cardsOf, standardCard } from './cards.ts';
export { addEntry } from './entries.ts';
export { actOnWeek, readWeek } from './sheets.ts';
export { overtimeOf, timeSums } from './sums.ts';

export const labour: Room = {
  name: 'labour',
  routes: [labourRoutes],
};
