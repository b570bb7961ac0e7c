import { whenCalendarChanges } from '../platform/calendar-changed.ts';
import type { Room } from '../room.ts';
import { countOrders } from './count.ts';
import { ordersFound } from './finder.ts';
import { coursesDerived } from './courses.ts';
import { deriveByCalendar } from './derive-again.ts';
import { ordersDerived } from './derived.ts';
import { derivingAgain, keepingCourses, warning } from './jobs.ts';
import { ORDER_MESSAGES } from './messages.ts';
import { PROMISE_WARNING } from './warnings.ts';
import { troubleLane } from './ribbon.ts';
import { orderRoutes } from './routes.ts';

export { mustActOn, wasSentTo } from './acting.ts';
export { clocksOtherwise } from './by-calendar.ts';
export { changeOrderIn } from './changing.ts';
export { correctIn } from './correcting.ts';
export { clocksOf, openClocks, showClock, storedClock, visitsOf } from './clock-rows.ts';
export { addLineIn, followUpIn } from './follow-up.ts';
export { copyForms } from './forms.ts';
export { factsOfLine, loadOrder, loadOrders, type LoadedOrder, type OrderRow } from './loading.ts';
export { readOrderAs } from './page.ts';
export { raiseCallIn, raiseFromCall } from './calls.ts';
export { sayCall, wordsOf } from './say.ts';
export { deriveOrderClocks } from './order-clocks.ts';
export { recordActBy, recordActIn, recordOrderAct, type ActAsk } from './commands.ts';
export { orderSettings } from './settings.ts';
export { contactLanguage, tellComing, tellDone, tellOnSite } from './telling.ts';
export { endingSoon } from './today.ts';
export { raiseMany, type NewLine, type NewOrder } from './raise-many.ts';
export type { Recorded } from './raised-events.ts';
export { orderRows } from './queries.ts';
export { ordersFound } from './finder.ts';

whenCalendarChanges(deriveByCalendar);

export const orders: Room = {
  name: 'orders',
  routes: [orderRoutes],
  found: [ordersFound],
  count: countOrders,
  jobs: [derivingAgain, keepingCourses, warning],
  derived: [ordersDerived, coursesDerived],
  lane: troubleLane,
  messages: [...Object.values(ORDER_MESSAGES), PROMISE_WARNING],
};
