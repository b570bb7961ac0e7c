export { setupRoutes } from './routes.ts';
export { accessRoutes } from './access.ts';
