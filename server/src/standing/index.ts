import { whenCountsChange } from '../platform/counts-changed.ts';
import type { Room } from '../room.ts';
import { standingDerived } from './derived.ts';
import { summing } from './jobs.ts';
import { placesFollow } from './merged.ts';
import { proofRoutes } from './proof-routes.ts';
import { standingRoutes } from './routes.ts';
import { changedOn } from './summing.ts';

export { adjustClosed, closeMonth, openIn } from './closing.ts';
export { firstMonth, sumMonths } from './summing.ts';
export { standingPage } from './queries.ts';

whenCountsChange(changedOn);

export const standing: Room = {
  name: 'standing',
  routes: [standingRoutes, proofRoutes],
  jobs: [summing],
  derived: [standingDerived],
  placeMerged: placesFollow,
};
