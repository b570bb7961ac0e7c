export { orderRoutes } from './routes.ts';
export { clocksOf, openClocks, showClock, visitsOf } from './clock-rows.ts';
export { decideRepair, deriveOrderClocks, loadOrder, raiseRepairIn, recordOrderAct } from './commands.ts';
export { orderRows } from './queries.ts';
