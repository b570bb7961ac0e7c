export { registerRoutes } from './routes.ts';
export { assetRows, verdictOut } from './queries.ts';
