export { agreementRoutes } from './routes.ts';
