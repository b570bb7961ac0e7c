// Clocks that were derived by earlier rules, derived again from their orders' events: at a start, in the background, some orders at a time.
import { asc, lt } from 'drizzle-orm';
import type { Instant } from '#core/time/index.ts';
import { calendarBook } from '../calendars/index.ts';
import type { Database } from '../platform/database.ts';
import { clock } from './tables.ts';
import { DERIVATION } from './clock-rows.ts';
import { deriveOrderClocks } from './order-clocks.ts';
import { loadOrder } from './loading.ts';

const ORDERS_AT_ONCE = 50;

/** Gives the number of orders whose clocks were derived again. Several servers may do it at once; each order is done under its lock. */
export async function deriveAgain(database: Database, now: Instant): Promise<number> {
  for (let done = 0; ;) {
    const rows = await database.db
      .selectDistinct({ id: clock.orderId })
      .from(clock)
      .where(lt(clock.derivation, DERIVATION))
      .orderBy(asc(clock.orderId))
      .limit(ORDERS_AT_ONCE);
    if (rows.length === 0) return done;
    for (const { id } of rows)
      await database.transact(async (tx) => {
        const { order, lines, events } = await loadOrder(tx.db, id, 'lock');
        await deriveOrderClocks(tx, await calendarBook(tx.db), order, lines, events, now);
      });
    done += rows.length;
  }
}
