// Raising orders, one or a thousand at once: rows of every table an order has, each from the order's events by the rules of core.
import { deriveClocks, type GivenPromises, type Priority } from '#core/service-levels/index.ts';
import {
  clockEventsOf,
  effortOf,
  stateOfOrder,
  type OrderEvent,
  type OrderFacts,
  type OrderKind,
} from '#core/orders/index.ts';
import type { WantedDraw } from '#core/entitlement/index.ts';
import type {
  AgreementId,
  AssetId,
  ContactId,
  CustomerId,
  OrderId,
  OrderLineId,
  PersonId,
  VisitId,
} from '#core/ids.ts';
import type { Instant, LocalDate, Zone } from '#core/time/index.ts';
import type { CalendarBook } from '../calendars/index.ts';
import { bookDraws } from '../entitlement/index.ts';
import { bulkInsert, insertedIds, type Tx } from '../platform/database.ts';
import { instantText } from '../platform/columns.ts';
import { storedClock } from './clock-rows.ts';
import { copyForms } from './forms.ts';
import type { StoredVerdict } from './tables.ts';

export type Recorded = OrderEvent & { readonly by: PersonId | null };

export type NewOrder = {
  readonly kind: OrderKind;
  readonly title: string;
  readonly priority: Priority;
  readonly customerId: CustomerId;
  readonly agreementId: AgreementId | null;
  readonly visitId: VisitId | null;
  readonly zone: Zone;
  readonly startedAt: Instant;
  /** How long the work is expected to take. */
  readonly minutes: number | null;
  readonly callerId?: ContactId | null;
  readonly requestKey?: string | null;
  readonly requestContent?: string | null;
  readonly assetId: AssetId;
  readonly verdict: StoredVerdict | null;
  readonly promises: GivenPromises;
  /** What it takes of allowances, counted on a day. */
  readonly draws?: { readonly on: LocalDate; readonly draws: readonly WantedDraw[] };
  readonly tasks: readonly { readonly text: string; readonly mandatory: boolean }[];
  /** Whether the forms of its class are copied to it. */
  readonly withForms: boolean;
  /** What has happened to it, from its raising on; given the ids of its tasks. */
  readonly events: (tasks: readonly number[]) => readonly Recorded[];
};

const stamp = (at: Instant | null): string | null => (at === null ? null : instantText(at));

/** State and effort do not depend on the ids its tasks will get: their positions stand for them. */
function standingOf(order: NewOrder) {
  const positions = order.tasks.map((_, i) => i);
  const events = order.events(positions);
  const facts: OrderFacts = {
    kind: order.kind,
    startedAt: order.startedAt,
    tasks: order.tasks.map((t, id) => ({ ...t, id })),
    forms: [],
  };
  const state = stateOfOrder(facts, events);
  if (!state.ok) throw new Error(`“${order.title}” cannot have happened: ${state.refusals[0]?.message}`);
  return { state: state.value, effort: effortOf(events) };
}

async function writeOrderRows(tx: Tx, orders: readonly NewOrder[], standing: readonly ReturnType<typeof standingOf>[]) {
  const { connection } = tx;
  const columns = [
    'kind',
    'stage',
    'priority',
    'title',
    'customer_id',
    'agreement_id',
    'visit_id',
    'zone',
    'started_at',
  ];
  const later = ['planned_for', 'technician', 'paused_since', 'restored_at', 'done_at'];
  const asked = ['minutes', 'caller_id', 'request_key', 'request_content'];
  const rows = orders.map((o, i) => {
    const { state: s } = standing[i] as ReturnType<typeof standingOf>;
    return [
      ...[o.kind, s.stage, o.priority, o.title, o.customerId, o.agreementId, o.visitId, o.zone, stamp(o.startedAt)],
      ...[s.plannedFor, s.technician, stamp(s.pausedSince), stamp(s.restoredAt), stamp(s.doneAt)],
      ...[o.minutes, o.callerId ?? null, o.requestKey ?? null, o.requestContent ?? null],
    ];
  });
  const first = await bulkInsert(connection, 'work_order', [...columns, ...later, ...asked], rows);
  return (await insertedIds(connection, first, rows.length)) as OrderId[];
}

async function writeLines(
  tx: Tx,
  orders: readonly NewOrder[],
  ids: readonly OrderId[],
  standing: readonly ReturnType<typeof standingOf>[],
) {
  const rows = orders.map((o, i) => {
    const effort = standing[i]?.effort;
    return [
      ...[ids[i], o.assetId, JSON.stringify(o.verdict), JSON.stringify(o.promises)],
      ...[effort?.fault, effort?.labourMinutes, effort?.partsCost, effort?.otherCost].map((x) => x ?? null),
    ];
  });
  const columns = [
    'order_id',
    'asset_id',
    'verdict',
    'promises',
    'fault',
    'labour_minutes',
    'parts_cost',
    'other_cost',
  ];
  const first = await bulkInsert(tx.connection, 'order_line', columns, rows);
  return (await insertedIds(tx.connection, first, rows.length)) as OrderLineId[];
}

/** The ids of each order's tasks. */
async function writeTasks(tx: Tx, orders: readonly NewOrder[], ids: readonly OrderId[]): Promise<number[][]> {
  const rows = orders.flatMap((o, i) => o.tasks.map((t, position) => [ids[i], position, t.text, t.mandatory ? 1 : 0]));
  const first = await bulkInsert(tx.connection, 'order_task', ['order_id', 'position', 'text', 'mandatory'], rows);
  const made = await insertedIds(tx.connection, first, rows.length);
  let next = 0;
  return orders.map((o) => made.slice(next, (next += o.tasks.length)));
}

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
async function writeClocks(
  tx: Tx,
  rows: readonly { order: NewOrder; id: OrderId; line: OrderLineId; events: readonly OrderEvent[] }[],
  book: CalendarBook,
  now: Instant,
): Promise<void> {
  const values = rows.flatMap(({ order, id, line, events }) =>
    deriveClocks(order.startedAt, clockEventsOf(events), order.promises, book.timeOf, now).map((derived) => {
      const { assetId, customerId, agreementId, zone } = order;
      const row: Record<string, unknown> = {
        ...{ orderLineId: line, orderId: id, assetId, customerId, agreementId, zone },
        ...storedClock(derived),
      };
      return Object.keys(CLOCK_COLUMNS).map((key) =>
        INSTANTS.has(key) ? stamp((row[key] ?? null) as Instant | null) : row[key],
      );
    }),
  );
  await bulkInsert(tx.connection, 'clock', Object.values(CLOCK_COLUMNS), values);
}

/** Each visit names the order it was raised as. */
async function nameOrders(tx: Tx, ids: readonly OrderId[]): Promise<void> {
  for (let i = 0; i < ids.length; i += 1000)
    await tx.connection.query(
      'UPDATE visit v JOIN work_order o ON o.visit_id = v.id SET v.order_id = o.id WHERE o.id IN (?)',
      [ids.slice(i, i + 1000)],
    );
}

/**
 * Writes orders inside an open transaction and gives their ids in the order given. Throws where their events could not have
 * happened; what users may cause was decided before.
 */
export async function raiseMany(
  tx: Tx,
  orders: readonly NewOrder[],
  book: CalendarBook | null,
  now: Instant,
): Promise<OrderId[]> {
  if (orders.length === 0) return [];
  const standing = orders.map(standingOf);
  const ids = await writeOrderRows(tx, orders, standing);
  const lines = await writeLines(tx, orders, ids, standing);
  const tasks = await writeTasks(tx, orders, ids);
  const rows = orders.map((order, i) => ({
    order,
    id: ids[i] as OrderId,
    line: lines[i] as OrderLineId,
    events: order.events(tasks[i] ?? []),
  }));
  await bulkInsert(
    tx.connection,
    'order_event',
    ['order_id', 'at', 'recorded_at', 'person_id', 'act'],
    rows.flatMap(({ id, events }) =>
      events.map((e) => [id, instantText(e.at), instantText(e.recordedAt), e.by, JSON.stringify(e.act)]),
    ),
  );
  if (book) await writeClocks(tx, rows, book, now);
  await bookDraws(
    tx,
    rows.flatMap(({ id, order }) => (order.draws ? [{ orderId: id, ...order.draws }] : [])),
    now,
  );
  for (const kind of new Set(orders.map((o) => o.kind)))
    await copyForms(
      tx,
      kind,
      rows
        .filter(({ order }) => order.withForms && order.kind === kind)
        .map(({ id, order }) => ({ orderId: id, assetId: order.assetId })),
    );
  await nameOrders(
    tx,
    rows.filter(({ order }) => order.visitId !== null).map(({ id }) => id),
  );
  return ids;
}
