export { todayRoutes } from './routes.ts';
