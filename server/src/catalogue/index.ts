import type { Room } from '../room.ts';
import { formRoutes } from './forms.ts';
import { jobPlanRoutes } from './job-plans.ts';
import { catalogueRoutes } from './routes.ts';

export { plansToDo, type PlanToDo } from './kept-plans.ts';

export const catalogue: Room = {
  name: 'catalogue',
  routes: [catalogueRoutes, formRoutes, jobPlanRoutes],
};
