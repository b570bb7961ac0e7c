export { registerRoutes } from './routes.ts';
export { assetRows } from './queries.ts';
