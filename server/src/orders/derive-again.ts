// Clocks that were derived by earlier rules, derived again from their orders' events: at a start, in the background, some orders at a time.
import { and, asc, eq, gte, inArray, lt, or } from 'drizzle-orm';
import { changeCalendar } from '#api/setup.ts';
import type { CalendarId } from '#core/ids.ts';
import { asZone, DAY, instant, startOfDay, type Instant, type LocalDate } from '#core/time/index.ts';
import { calendarBook } from '../calendars/index.ts';
import type { Database, Tx } from '../platform/database.ts';
import { leaveJob } from '../platform/jobs.ts';
import { announce } from '../platform/live.ts';
import { clock } from './tables.ts';
import { DERIVATION } from './clock-rows.ts';
import { deriveOrderClocks } from './order-clocks.ts';
import { loadOrder } from './loading.ts';

const ORDERS_AT_ONCE = 50;

/** The job that derives them. */
export const DERIVING = 'clocks';

/** Clocks that count by a calendar and may do so otherwise from a day on. */
export function countsBy(id: CalendarId, from: LocalDate) {
  // A day before: somewhere it has begun already.
  const since = instant(startOfDay(asZone('UTC'), from) - DAY);
  return and(
    eq(clock.calendarId, id),
    or(inArray(clock.state, ['running', 'paused']), gte(clock.dueAt, since), gte(clock.stoppedAt, since)),
  );
}

/**
 * Clocks that count by a calendar that is open otherwise from a day on are derived again, a job some orders at a time: those that run, and
 * those that ended on that day or later. Marked in the transaction of the change, none is left out, whoever dies.
 */
export async function deriveByCalendar(tx: Tx, id: CalendarId, from: LocalDate): Promise<void> {
  const [{ affectedRows }] = await tx.db.update(clock).set({ derivation: 0 }).where(countsBy(id, from));
  if (affectedRows > 0) await leaveJob(tx, DERIVING, {});
}

/** Gives the number of orders whose clocks were derived again. Several servers may do it at once; each order is done under its lock. */
export async function deriveAgain(
  database: Database,
  now: Instant,
  told: (done: number, left: number) => Promise<void> = () => Promise.resolve(),
): Promise<number> {
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
    // Open screens are told of some at a time.
    await database.transact((tx) =>
      announce(
        tx,
        changeCalendar,
        rows.map(({ id }) => ({ subject: 'order', id })),
      ),
    );
    done += rows.length;
    await told(done, await database.db.$count(clock, lt(clock.derivation, DERIVATION)));
  }
}
