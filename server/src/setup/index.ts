export { setupRoutes } from './routes.ts';
