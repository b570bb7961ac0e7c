export { orderRoutes } from './routes.ts';
export { clocksOf, openClocks, storedClock, visitsOf } from './clock-rows.ts';
export { deriveOrderClocks, loadOrder, raiseRepairIn, recordActIn, recordOrderAct } from './commands.ts';
export { deriveAgain } from './derive-again.ts';
export { copyForms } from './forms.ts';
export { orderRows } from './queries.ts';
