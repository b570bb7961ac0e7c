export { upkeepRoutes } from './routes.ts';
export { commitRun, computeRun, previewRun } from './run.ts';
