// The data of a statement: every promise of a customer that fell due in a period, as it stands, with all that it follows from.
import { and, asc, between, eq, gt, inArray } from 'drizzle-orm';
import { orderNumber } from '#api/shapes.ts';
import type { CalendarId, CustomerId, OrderId } from '#core/ids.ts';
import { clockEventsOf, promisesKeptBy } from '#core/orders/index.ts';
import { STATEMENT_FORM, type StatedClock, type StatementData } from '#core/standing/index.ts';
import { formatInstant } from '#core/time/index.ts';
import { asset } from '../assets/tables.ts';
import { calendarBook, type CalendarBook } from '../calendars/index.ts';
import { customer } from '../customers/tables.ts';
import { factsOfLine, loadOrders, showClock, type LoadedOrder } from '../orders/index.ts';
import { clock } from '../orders/tables.ts';
import type { Db } from '../platform/database.ts';
import { refuse } from '../platform/refuse.ts';
import type { AskedPeriod } from './period.ts';

const ORDERS_AT_ONCE = 200;

/** What a stored clock follows from: its promise, and the events it listened to. */
function sourceOf({ order, lines, events }: LoadedOrder, row: typeof clock.$inferSelect) {
  const line = lines.find((l) => l.id === row.orderLineId);
  if (!line) throw new Error(`clock ${row.id} has no line`);
  const facts = factsOfLine(line);
  const given = promisesKeptBy(events, facts, line.promises)[row.target];
  if (!given) throw new Error(`clock ${row.id} follows from no promise`);
  const { promise, pauses } = given;
  return {
    startedAt: formatInstant(line.since ?? order.startedAt),
    promisedMinutes: promise.minutes,
    calendar: promise.measure === 'working' ? promise.calendarId : null,
    pauses,
    events: clockEventsOf(events, facts).map((e) => ({
      ...{ kind: e.kind, at: formatInstant(e.at) },
      ...(e.kind === 'paused' && { reason: e.reason }),
    })),
  };
}

/** The promises of a customer that fell due in a period, some orders at a time. */
async function* statedClocks(
  db: Db,
  customerId: CustomerId,
  { from, to, now }: AskedPeriod,
  book: CalendarBook,
): AsyncGenerator<StatedClock[]> {
  for (let after = 0 as OrderId; ;) {
    const inPeriod = and(eq(clock.customerId, customerId), between(clock.dueOn, from, to));
    const ids = (
      await db
        .selectDistinct({ id: clock.orderId })
        .from(clock)
        .where(and(inPeriod, gt(clock.orderId, after)))
        .orderBy(asc(clock.orderId))
        .limit(ORDERS_AT_ONCE)
    ).map((r) => r.id);
    if (ids.length === 0) return;
    const [rows, loaded] = await Promise.all([
      db
        .select({ clock, tag: asset.tag })
        .from(clock)
        .innerJoin(asset, eq(asset.id, clock.assetId))
        .where(and(inArray(clock.orderId, ids), between(clock.dueOn, from, to)))
        .orderBy(asc(clock.orderId), asc(clock.id)),
      loadOrders(db, ids, 'look'),
    ]);
    const orders = new Map(loaded.map((o) => [o.order.id, o]));
    yield rows.map((row): StatedClock => {
      const shown = showClock(row, book, now);
      return {
        ...{ order: orderNumber(row.clock.orderId), asset: row.tag, target: row.clock.target, zone: row.clock.zone },
        ...sourceOf(orders.get(row.clock.orderId) as LoadedOrder, row.clock),
        ...{ state: shown.state, dueAt: shown.dueAt === null ? null : formatInstant(shown.dueAt) },
        overMinutes: Math.round((shown.over ?? 0) / 60_000),
      };
    });
    after = ids.at(-1) as OrderId;
  }
}

export const STATEMENT_HEAD = [
  ...['order', 'machine', 'promise', 'zone', 'started', 'promised minutes', 'calendar', 'pauses that count'],
  ...['due', 'outcome', 'late minutes', 'what happened'],
];

/** The same as rows of a file. */
export async function* statementRows(db: Db, customerId: CustomerId, period: AskedPeriod) {
  await nameOf(db, customerId);
  const book = await calendarBook(db);
  for await (const stated of statedClocks(db, customerId, period, book))
    yield stated.map((c) => [
      ...[c.order, c.asset, c.target, c.zone, c.startedAt, c.promisedMinutes],
      c.calendar === null ? 'around the clock' : book.calendarOf(c.calendar as CalendarId).name,
      c.pauses.join('; '),
      ...[c.dueAt, c.state, c.overMinutes],
      c.events.map((e) => `${e.at} ${e.kind}${e.reason ? ` (${e.reason})` : ''}`).join('; '),
    ]);
}

/** Refused: a customer that does not exist. */
async function nameOf(db: Db, id: CustomerId): Promise<string> {
  const [whose] = await db.select({ name: customer.name }).from(customer).where(eq(customer.id, id));
  return whose?.name ?? refuse('not-found', 'That customer does not exist; choose another.', 'customer');
}

/**
 * A statement's data as the text of a JSON file, piece by piece. What is stated is what is stored; what it follows from comes from the
 * orders' events. Costs are no part of it. Refused: a customer that does not exist.
 */
export async function* statementPieces(db: Db, customerId: CustomerId, period: AskedPeriod): AsyncGenerator<string> {
  const name = await nameOf(db, customerId);
  const book = await calendarBook(db);
  const head: Omit<StatementData, 'clocks' | 'calendars' | 'met' | 'missed'> = {
    ...{ form: STATEMENT_FORM, customer: name, from: period.from, to: period.to },
    asOf: formatInstant(period.now),
  };
  yield `${JSON.stringify(head).slice(0, -1)},"clocks":[`;
  const calendars = new Set<number>();
  let [met, missed, written] = [0, 0, 0];
  for await (const stated of statedClocks(db, customerId, period, book)) {
    for (const { calendar, state } of stated) {
      if (calendar !== null) calendars.add(calendar);
      if (state === 'met') met += 1;
      if (state === 'missed') missed += 1;
    }
    yield stated.map((c, i) => `${written + i === 0 ? '' : ','}\n${JSON.stringify(c)}`).join('');
    written += stated.length;
  }
  const used = [...calendars].map((number) => ({ number, ...book.calendarOf(number as CalendarId) }));
  yield `\n],"calendars":${JSON.stringify(used)},"met":${met},"missed":${missed}}\n`;
}
