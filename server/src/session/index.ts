export { sessionRoutes } from './routes.ts';
