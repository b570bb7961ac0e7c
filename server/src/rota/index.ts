import type { Room } from '../room.ts';
import { planningRota } from './jobs.ts';
import { DAY_SENT } from './messages.ts';
import { lettingGo } from './over.ts';
import { rotaPeopleRoutes, rotaRoutes } from './routes.ts';

export { agendaOf, type AgendaEntry } from './agenda.ts';
export { bookIn } from './booking.ts';
export { daysOf, whoGoes, type Goes } from './days.ts';
export { travelChanged } from './roads.ts';
export { spotOf, spotsOf } from './spots.ts';
export { takeSteps } from './steps.ts';
export { workOf, type OrderWork } from './work.ts';

lettingGo();

export const rota: Room = {
  name: 'rota',
  routes: [rotaRoutes, rotaPeopleRoutes],
  messages: [DAY_SENT],
  jobs: [planningRota],
};
