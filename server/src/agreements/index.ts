export { agreementRoutes } from './routes.ts';
export { noticesTo } from './notices.ts';
export { sweepRenewals } from './renewals.ts';
export { openWork } from './ending.ts';
export { feeOf } from './price.ts';
export { reachOf } from './reach.ts';
