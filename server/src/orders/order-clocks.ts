// The clocks of an order as its events say them, written over what stood there; and when its next promise ends.
import { eq } from 'drizzle-orm';
import type { AgreementId, AssetId } from '#core/ids.ts';
import { clockEventsOf, promisesKeptBy, type OrderEvent } from '#core/orders/index.ts';
import { deriveClocks, type Clock } from '#core/service-levels/index.ts';
import { localDateAt, type Instant, type LocalDate } from '#core/time/index.ts';
import { holdCalendars, type CalendarBook } from '../calendars/index.ts';
import { countsChanged } from '../platform/counts-changed.ts';
import type { Tx } from '../platform/database.ts';
import { visit } from '../upkeep/tables.ts';
import { storedClock, type DerivedFrom } from './clock-rows.ts';
import { factsOfLine, type LineRow, type LoadedOrder, type OrderRow } from './loading.ts';
import { clock, workOrder } from './tables.ts';

/** A derived clock as a row. */
function clockValues(
  order: OrderRow,
  line: LineRow,
  assetId: AssetId,
  derived: Clock,
  from: DerivedFrom,
): typeof clock.$inferInsert {
  return {
    orderLineId: line.id,
    orderId: order.id,
    assetId,
    customerId: order.customerId,
    agreementId: agreementOf(order, line),
    zone: order.zone,
    ...{ siteId: line.siteId, depotId: order.depotId, priority: order.priority },
    ...storedClock(derived, from),
  };
}

/** The agreement whose cover was taken for a line; where none was, that of the order. */
const agreementOf = (order: OrderRow, line: LineRow): AgreementId | null =>
  line.verdict?.verdict.agreementId ?? order.agreementId;

/** The order's clocks as its events say them. */
export const clocksSaid = (
  { order, lines, events }: Pick<LoadedOrder, 'order' | 'lines'> & { readonly events: readonly OrderEvent[] },
  book: CalendarBook,
  now: Instant,
): (typeof clock.$inferInsert)[] =>
  lines.flatMap((line) => {
    const { assetId } = line;
    // To a place without a machine nothing was promised yet.
    if (assetId === null) return [];
    const own = factsOfLine(line);
    const start = line.since ?? order.startedAt;
    const promises = promisesKeptBy(events, own, line.promises);
    const heard = clockEventsOf(events, own);
    return deriveClocks(start, heard, promises, book.timeOf, now).map((derived) =>
      clockValues(order, line, assetId, derived, { zone: order.zone, events: heard, timeOf: book.timeOf }),
    );
  });

/** The order's clocks, derived from its events and written over what stood there. */
export async function deriveOrderClocks(
  tx: Tx,
  book: CalendarBook,
  order: OrderRow,
  lines: readonly LineRow[],
  events: readonly OrderEvent[],
  now: Instant,
): Promise<void> {
  const values = clocksSaid({ order, lines, events }, book, now);
  await holdCalendars(
    tx,
    book,
    values.flatMap((c) => c.calendarId ?? []),
  );
  const held = await tx.db.select().from(clock).where(eq(clock.orderId, order.id));
  await tx.db.delete(clock).where(eq(clock.orderId, order.id));
  if (values.length > 0) await tx.db.insert(clock).values(values);
  await countsChanged(tx, daysDiffering(held, values), localDateAt(order.zone, now));
  const nextDue = nextDueOf(order, values, await visitsDue(tx, order, lines), isOverAfter(events));
  if (nextDue !== order.nextDue) await tx.db.update(workOrder).set({ nextDue }).where(eq(workOrder.id, order.id));
}

/** The days on which something else counts now than before. */
function daysDiffering(
  held: readonly (typeof clock.$inferSelect)[],
  said: readonly (typeof clock.$inferInsert)[],
): LocalDate[] {
  const countedAs = (c: typeof clock.$inferInsert): string =>
    JSON.stringify([c.dueOn, c.state, c.assetId, c.agreementId, c.customerId, c.siteId, c.depotId, c.missCause]);
  const keyed = (rows: readonly (typeof clock.$inferInsert)[]) =>
    new Map(rows.map((c) => [`${c.orderLineId} ${c.target}`, c]));
  const [before, after] = [keyed(held), keyed(said)];
  return [...new Set([...before.keys(), ...after.keys()])].flatMap((key) => {
    const [a, b] = [before.get(key), after.get(key)];
    return a && b && countedAs(a) === countedAs(b) ? [] : [a?.dueOn ?? [], b?.dueOn ?? []].flat();
  });
}

const isOverAfter = (events: readonly OrderEvent[]): boolean =>
  events.some(({ act }) => act.kind === 'done' || act.kind === 'called off');

async function visitsDue(tx: Tx, { id }: OrderRow, lines: readonly LineRow[]): Promise<LocalDate[]> {
  if (lines.every((l) => l.visitId === null)) return [];
  const rows = await tx.db.select({ due: visit.due }).from(visit).where(eq(visit.orderId, id));
  return rows.map((r) => r.due);
}

/** The place's day on which the next of its promises ends, or a visit is due; none once it is over. */
export function nextDueOf(
  { zone }: Pick<OrderRow, 'zone'>,
  clocks: readonly Pick<typeof clock.$inferInsert, 'state' | 'dueAt'>[],
  visits: readonly LocalDate[],
  isOver: boolean,
): LocalDate | null {
  if (isOver) return null;
  const promised = clocks.flatMap((c) => (c.state === 'running' && c.dueAt ? [localDateAt(zone, c.dueAt)] : []));
  return [...promised, ...visits].sort()[0] ?? null;
}
