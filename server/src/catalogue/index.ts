import type { Room } from '../room.ts';
import { formRoutes } from './forms.ts';
import { jobPlanRoutes } from './job-plans.ts';
import { catalogueRoutes } from './routes.ts';

export const catalogue: Room = {
  name: 'catalogue',
  routes: [catalogueRoutes, formRoutes, jobPlanRoutes],
};
