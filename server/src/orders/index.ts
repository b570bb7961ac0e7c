export { orderRoutes } from './routes.ts';
export { clocksOf, openClocks, visitsOf } from './clock-rows.ts';
export { deriveOrderClocks, loadOrder, raiseRepairIn, recordOrderAct } from './commands.ts';
export { copyForms } from './forms.ts';
export { orderRows } from './queries.ts';
