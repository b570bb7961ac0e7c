import type { Room } from '../room.ts';
import { forgettingPositions, planningRota } from './jobs.ts';
import { COMES_LATER, DAY_CHANGED, DAY_SENT } from './messages.ts';
import { lettingGo } from './over.ts';
import { rotaPeopleRoutes, rotaRoutes } from './routes.ts';

export { addAbsenceOf, listAbsences } from './absences.ts';
export { agendaOf, type AgendaEntry } from './agenda.ts';
export { answerIn, sayLateIn } from './answers.ts';
export { allowPosition, allowsPosition, keepPosition } from './seen.ts';
export { bookIn } from './booking.ts';
export { appointmentsOf, daysOf, ordersOfAppointments, spanOfDates, whoGoes, type Goes, type Kept } from './days.ts';
export { toldOf } from './read.ts';
export { travelChanged } from './roads.ts';
export { spotOf, spotsOf } from './spots.ts';
export { takeSteps } from './steps.ts';
export { workOf, type OrderWork } from './work.ts';

lettingGo();

export const rota: Room = {
  name: 'rota',
  routes: [rotaRoutes, rotaPeopleRoutes],
  messages: [DAY_SENT, DAY_CHANGED, COMES_LATER],
  jobs: [planningRota, forgettingPositions],
};
