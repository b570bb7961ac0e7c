// Clocks of orders that are raised, many at once: rows as the database takes them.
import { clockEventsOf, type OrderEvent } from '#core/orders/index.ts';
import { deriveClocks } from '#core/service-levels/index.ts';
import type { CalendarId, LocationId, OrderId, OrderLineId } from '#core/ids.ts';
import { asZone, localDateAt, type Instant, type LocalDate } from '#core/time/index.ts';
import { holdCalendars, type CalendarBook } from '../calendars/index.ts';
import { bulkInsert, type Tx } from '../platform/database.ts';
import { instantText } from '../platform/columns.ts';
import { countsChanged } from '../platform/counts-changed.ts';
import { storedClock } from './clock-rows.ts';
import type { NewLine, NewOrder } from './raise-many.ts';

/** A line that was written, with the order it is of. */
export type Written = {
  readonly order: NewOrder;
  readonly orderId: OrderId;
  readonly line: NewLine;
  readonly id: OrderLineId;
  readonly siteId: LocationId | null;
};

export const stamp = (at: Instant | null): string | null => (at === null ? null : instantText(at));

const CLOCK_COLUMNS = {
  orderLineId: 'order_line_id',
  orderId: 'order_id',
  assetId: 'asset_id',
  customerId: 'customer_id',
  agreementId: 'agreement_id',
  zone: 'zone',
  target: 'target',
  state: 'state',
  promisedMinutes: 'promised_minutes',
  warnPercent: 'warn_percent',
  calendarId: 'calendar_id',
  startedAt: 'started_at',
  dueAt: 'due_at',
  stoppedAt: 'stopped_at',
  leftMs: 'left_ms',
  lateMs: 'late_ms',
  lateFrom: 'late_from',
  note: 'note',
  shortAt: 'short_at',
  warnSteps: 'warn_steps',
  warnAt: 'warn_at',
  dueOn: 'due_on',
  siteId: 'site_id',
  depotId: 'depot_id',
  priority: 'priority',
  missCause: 'miss_cause',
  derivation: 'derivation',
} as const;
const INSTANTS = new Set(['startedAt', 'dueAt', 'stoppedAt', 'lateFrom', 'shortAt', 'warnAt']);

/** The book of calendars is needed only where something was promised. */
export async function writeClocks(
  tx: Tx,
  lines: readonly Written[],
  eventsOf: (id: OrderId) => readonly OrderEvent[],
  book: CalendarBook,
  now: Instant,
): Promise<void> {
  const days: LocalDate[] = [];
  const calendars = new Set<CalendarId>();
  const values = lines.flatMap(({ order, orderId, line, id, siteId }) => {
    const { customerId, zone, priority } = order;
    const events = clockEventsOf(eventsOf(orderId), { id });
    return deriveClocks(order.startedAt, events, line.promises, book.timeOf, now).map((derived) => {
      const agreementId = line.verdict?.verdict.agreementId ?? order.agreementId;
      const stored = storedClock(derived, { zone, events, timeOf: book.timeOf });
      if (stored.dueOn !== null) days.push(stored.dueOn);
      if (stored.calendarId !== null) calendars.add(stored.calendarId);
      const row: Record<string, unknown> = {
        ...{ orderLineId: id, orderId, assetId: line.assetId, customerId, agreementId, zone },
        ...{ siteId, depotId: order.depotId ?? null, priority },
        ...{ ...stored, warnSteps: stored.warnSteps && JSON.stringify(stored.warnSteps) },
      };
      return Object.keys(CLOCK_COLUMNS).map((key) =>
        INSTANTS.has(key) ? stamp((row[key] ?? null) as Instant | null) : row[key],
      );
    });
  });
  await holdCalendars(tx, book, calendars);
  await bulkInsert(tx.connection, 'clock', Object.values(CLOCK_COLUMNS), values);
  await countsChanged(tx, days, localDateAt(asZone('UTC'), now));
}
