// Clocks of orders that are raised, many at once: rows as the database takes them.
import { clockEventsOf, type OrderEvent } from '#core/orders/index.ts';
import { deriveClocks } from '#core/service-levels/index.ts';
import type { OrderId, OrderLineId } from '#core/ids.ts';
import type { Instant } from '#core/time/index.ts';
import type { CalendarBook } from '../calendars/index.ts';
import { bulkInsert, type Tx } from '../platform/database.ts';
import { instantText } from '../platform/columns.ts';
import { storedClock } from './clock-rows.ts';
import type { NewLine, NewOrder } from './raise-many.ts';

/** A line that was written, with the order it is of. */
export type Written = {
  readonly order: NewOrder;
  readonly orderId: OrderId;
  readonly line: NewLine;
  readonly id: OrderLineId;
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
  derivation: 'derivation',
} as const;
const INSTANTS = new Set(['startedAt', 'dueAt', 'stoppedAt', 'lateFrom']);

/** The book of calendars is needed only where something was promised. */
export async function writeClocks(
  tx: Tx,
  lines: readonly Written[],
  eventsOf: (id: OrderId) => readonly OrderEvent[],
  book: CalendarBook,
  now: Instant,
): Promise<void> {
  const values = lines.flatMap(({ order, orderId, line, id }) =>
    deriveClocks(order.startedAt, clockEventsOf(eventsOf(orderId), { id }), line.promises, book.timeOf, now).map(
      (derived) => {
        const { customerId, zone } = order;
        const agreementId = line.verdict?.verdict.agreementId ?? order.agreementId;
        const row: Record<string, unknown> = {
          ...{ orderLineId: id, orderId, assetId: line.assetId, customerId, agreementId, zone },
          ...storedClock(derived),
        };
        return Object.keys(CLOCK_COLUMNS).map((key) =>
          INSTANTS.has(key) ? stamp((row[key] ?? null) as Instant | null) : row[key],
        );
      },
    ),
  );
  await bulkInsert(tx.connection, 'clock', Object.values(CLOCK_COLUMNS), values);
}
