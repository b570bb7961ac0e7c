export { standingRoutes } from './routes.ts';
export { standingRows, standingTotal } from './queries.ts';
