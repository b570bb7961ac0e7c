export { sessionRoutes } from './routes.ts';
export { sweepTries } from './throttle.ts';
