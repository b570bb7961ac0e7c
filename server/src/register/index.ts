export { registerRoutes } from './routes.ts';
export { assetRows } from './rows.ts';
