// What Today shows of orders: the promises that run, the one that ends first in front.
import { and, eq, lte, sql } from 'drizzle-orm';
import type { NearPromise, Promises } from '#api/orders.ts';
import { ELAPSED_TIME } from '#core/calendars/index.ts';
import type { OrderId } from '#core/ids.ts';
import { compareByDue, marginOf } from '#core/service-levels/index.ts';
import { DAY, HOUR, instant, type Instant } from '#core/time/index.ts';
import { calendarBook } from '../calendars/index.ts';
import type { Db } from '../platform/database.ts';
import { openClocks } from './clock-rows.ts';
import { orderRows } from './queries.ts';
import { clock } from './tables.ts';

const PROMISES_SHOWN = 10;
const CLOCKS_READ = 500;

/** Running promises, one line for each order, with what of the time line counts for each. */
export async function promisesNow(db: Db, now: Instant): Promise<Promises> {
  const book = await calendarBook(db);
  const axis = { from: instant(now - 14 * HOUR), to: instant(now + 34 * HOUR) };
  const clocks = await openClocks(db, book, now, CLOCKS_READ);
  const margins = clocks.map((c) => marginOf(c));
  const counted = (wanted: string): number => margins.filter((m) => m === wanted).length;
  // One line for each order: the clock that ends first speaks for it; paused ones stand behind.
  const first = new Map<number, (typeof clocks)[number]>();
  for (const c of [...clocks].sort(compareByDue)) if (!first.has(c.orderId)) first.set(c.orderId, c);
  const chosen = [...first.values()];
  const shown = chosen.slice(0, PROMISES_SHOWN);
  const orders = new Map(
    (
      await orderRows(
        db,
        shown.map((c) => c.orderId as OrderId),
        now,
      )
    ).map((o) => [o.id, o]),
  );
  const calendars = new Map(
    (
      await db
        .select({ orderId: clock.orderId, target: clock.target, calendarId: clock.calendarId })
        .from(clock)
        .where(sql`${clock.orderId} in (${sql.join([...shown.map((c) => sql`${c.orderId}`), sql`0`], sql`, `)})`)
    ).map((c) => [`${c.orderId}/${c.target}`, c.calendarId]),
  );
  const promises = shown.flatMap((c): NearPromise[] => {
    const order = orders.get(c.orderId);
    const calendarId = calendars.get(`${c.orderId}/${c.target}`) ?? null;
    const time = calendarId === null ? ELAPSED_TIME : book.workingTime(calendarId);
    return order ? [{ clock: c, order, open: [...time.openSegments(axis.from, axis.to)] }] : [];
  });
  return {
    now,
    axisFrom: axis.from,
    axisTo: axis.to,
    promises,
    counts: {
      missed: counted('missed'),
      short: counted('short'),
      enough: counted('enough'),
      paused: counted('paused'),
    },
    morePromises: chosen.length - shown.length,
  };
}

/** Orders with a promise that ends within a day. */
export async function endingSoon(db: Db, now: Instant): Promise<number> {
  const [late] = await db
    .select({ n: sql<number>`count(distinct ${clock.orderId})` })
    .from(clock)
    .where(and(eq(clock.state, 'running'), lte(clock.dueAt, instant(now + DAY))));
  return Number(late?.n ?? 0);
}
