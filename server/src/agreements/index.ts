export { agreementRoutes } from './routes.ts';
export { sweepRenewals } from './renewals.ts';
export { openWork } from './ending.ts';
