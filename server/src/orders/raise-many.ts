// Raising orders, one or a thousand at once: rows of every table an order has, each from the order's events by the rules of core.
import { group } from 'd3-array';
import { eq, inArray } from 'drizzle-orm';
import { deriveClocks, type GivenPromises, type Priority } from '#core/service-levels/index.ts';
import {
  clockEventsOf,
  isFinished,
  saidOfLines,
  stateOfOrder,
  type OrderEvent,
  type OrderFacts,
  type KeptPlan,
  type OrderKind,
  type OrderState,
  type SaidOfLine,
} from '#core/orders/index.ts';
import type { Cause, WantedDraw } from '#core/entitlement/index.ts';
import type {
  AgreementId,
  AssetId,
  ContactId,
  CustomerId,
  DepotId,
  LocationId,
  OrderId,
  OrderLineId,
  VisitId,
  PersonId,
} from '#core/ids.ts';
import type { Instant, LocalDate, Zone } from '#core/time/index.ts';
import { asset } from '../assets/tables.ts';
import { topOf } from '../places/index.ts';
import { location } from '../places/tables.ts';
import type { CalendarBook } from '../calendars/index.ts';
import { bookDraws } from '../entitlement/index.ts';
import { bulkInsert, insertedIds, type Tx } from '../platform/database.ts';
import { ordersRaised } from '../platform/order-life.ts';
import { storedClock } from './clock-rows.ts';
import { keepCourses } from './courses.ts';
import { nextDueOf } from './order-clocks.ts';
import { stamp, writeClocks, type Written } from './raised-clocks.ts';
import { writeEvents, type Recorded } from './raised-events.ts';
import { askedOnce, copyForms } from './forms.ts';
import { cardsHolding } from './rate-cards.ts';
import type { StoredVerdict } from './tables.ts';

export type NewLine = {
  /** Null: the place itself, while no machine is known. */
  readonly assetId: AssetId | null;
  readonly locationId?: LocationId | null;
  readonly coverCause?: Cause | null;
  readonly asksFindings?: boolean;
  readonly visitId: VisitId | null;
  /** How long the work is expected to take. */
  readonly minutes: number | null;
  readonly plan?: KeptPlan | null;
  /** The day its visit is due. */
  readonly dueOn?: LocalDate;
  /** What the visit is billed, in minor units of the agreement’s currency. */
  readonly visitPrice?: number | null;
  readonly verdict: StoredVerdict | null;
  readonly promises: GivenPromises;
  /** What it takes of allowances, counted on a day. */
  readonly draws?: { readonly on: LocalDate; readonly draws: readonly WantedDraw[] };
  readonly tasks: readonly { readonly text: string; readonly mandatory: boolean }[];
};

export type NewOrder = {
  readonly kind: OrderKind;
  readonly title: string;
  readonly priority: Priority;
  readonly customerId: CustomerId;
  readonly agreementId: AgreementId | null;
  readonly zone: Zone;
  readonly startedAt: Instant;
  readonly callerId?: ContactId | null;
  readonly callerSaid?: string | null;
  readonly contactId?: ContactId | null;
  readonly customerReference?: string;
  readonly internal?: boolean;
  readonly depotId?: DepotId | null;
  /** Who of the house sees to it. */
  readonly inChargeId?: PersonId | null;
  readonly followsId?: OrderId | null;
  readonly wishedOn?: LocalDate | null;
  readonly requestKey?: string | null;
  readonly requestContent?: string | null;
  /** Its machines, one or several. */
  readonly lines: readonly NewLine[];
  /** Whether the forms of its class are copied to it. */
  readonly withForms: boolean;
  /** What has happened to it, from its raising on; given the ids of its tasks, line by line, and of its lines. */
  readonly events: (tasks: readonly number[], lines: readonly number[]) => readonly Recorded[];
};

type Standing = {
  readonly state: OrderState;
  readonly said: ReadonlyMap<number, SaidOfLine>;
  readonly events: readonly OrderEvent[];
};

/** State and what is said of its lines do not depend on the ids its lines and tasks will get: their positions stand for them. */
function standingOf(order: NewOrder): Standing {
  const tasks = order.lines.flatMap((l, lineId) => l.tasks.map((t) => ({ ...t, lineId })));
  const lines = order.lines.map((_, id) => ({ id }));
  const events = order.events(
    tasks.map((_, i) => i),
    lines.map((l) => l.id),
  );
  const facts: OrderFacts = {
    kind: order.kind,
    startedAt: order.startedAt,
    lines,
    tasks: tasks.map((t, id) => ({ ...t, id })),
    forms: [],
  };
  const state = stateOfOrder(facts, events);
  if (!state.ok) throw new Error(`“${order.title}” cannot have happened: ${state.refusals[0]?.message}`);
  return { state: state.value, said: saidOfLines(lines, events, state.value), events };
}

/** What its lines are expected to take together. */
function minutesOf({ lines }: NewOrder): number | null {
  const known = lines.flatMap((l) => l.minutes ?? []);
  return known.length === 0 ? null : known.reduce((sum, m) => sum + m, 0);
}

/** When the next of its promises ends, or a visit of it is due; the ids its lines will get do not matter for that. */
function firstDueOf(
  order: NewOrder,
  { state, events }: Standing,
  book: CalendarBook | null,
  now: Instant,
): LocalDate | null {
  const clocks =
    book === null
      ? []
      : order.lines.flatMap((line, id) => {
          const own = clockEventsOf(events, { id });
          return deriveClocks(order.startedAt, own, line.promises, book.timeOf, now).map((derived) =>
            storedClock(derived, { zone: order.zone, events: own, timeOf: book.timeOf }),
          );
        });
  const visits = order.lines.flatMap((l) => l.dueOn ?? []);
  return nextDueOf(order, clocks, visits, isFinished(state.stage));
}

async function writeOrderRows(
  tx: Tx,
  orders: readonly NewOrder[],
  standing: readonly Standing[],
  book: CalendarBook | null,
  now: Instant,
) {
  const { connection } = tx;
  const columns = ['kind', 'stage', 'priority', 'title', 'customer_id', 'agreement_id', 'zone', 'started_at'];
  const later = ['planned_for', 'technician_id', 'technician', 'paused_since', 'restored_at', 'done_at'];
  const asked = ['minutes', 'caller_id', 'caller_said', 'contact_id', 'customer_reference', 'internal'];
  const cardOf = await cardsHolding(
    tx,
    orders.map((o) => o.customerId),
  );
  const keys = [
    ...['rate_card_id', 'follows_id', 'wished_on', 'in_charge_id', 'depot_id', 'next_due', 'waiting_for'],
    ...['request_key', 'request_content'],
  ];
  const rows = orders.map((o, i) => {
    const { state: s } = standing[i] as Standing;
    return [
      ...[o.kind, s.stage, o.priority, o.title, o.customerId, o.agreementId, o.zone, stamp(o.startedAt)],
      ...[s.plannedFor, s.technicianId, s.technician, stamp(s.pausedSince), stamp(s.restoredAt), stamp(s.doneAt)],
      ...[minutesOf(o), o.callerId ?? null, o.callerSaid ?? null, o.contactId ?? null, o.customerReference ?? ''],
      ...[o.internal ? 1 : 0, cardOf(o.customerId), o.followsId ?? null, o.wishedOn ?? null],
      ...[o.inChargeId ?? null, o.depotId ?? null],
      ...[firstDueOf(o, standing[i] as Standing, book, now), s.waitingFor],
      ...[o.requestKey ?? null, o.requestContent ?? null],
    ];
  });
  const first = await bulkInsert(connection, 'work_order', [...columns, ...later, ...asked, ...keys], rows);
  return (await insertedIds(connection, first, rows.length)) as OrderId[];
}

/** A place, with the top of the tree above it. */
type Stands = { readonly placeId: LocationId | null; readonly siteId: LocationId | null };

/** Where the machines of new orders, and the places that are named instead of one, stand now. */
async function whereTheyStand(tx: Tx, orders: readonly NewOrder[]): Promise<(line: NewLine) => Stands> {
  const lines = orders.flatMap((o) => o.lines);
  const assetIds = [...new Set(lines.flatMap((l) => l.assetId ?? []))];
  const placeIds = [...new Set(lines.flatMap((l) => l.locationId ?? []))];
  const [machines, places] = [
    assetIds.length === 0
      ? []
      : await tx.db
          .select({ id: asset.id, placeId: asset.locationId, path: location.path })
          .from(asset)
          .leftJoin(location, eq(location.id, asset.locationId))
          .where(inArray(asset.id, assetIds)),
    placeIds.length === 0
      ? []
      : await tx.db
          .select({ placeId: location.id, path: location.path })
          .from(location)
          .where(inArray(location.id, placeIds)),
  ];
  const standsOf = (row: { placeId: LocationId | null; path: string | null } | undefined): Stands => ({
    placeId: row?.placeId ?? null,
    siteId: row?.path ? topOf(row.path) : null,
  });
  const ofMachine = new Map(machines.map((m) => [m.id, standsOf(m)]));
  const ofPlace = new Map(places.map((p) => [p.placeId, standsOf(p)]));
  return ({ assetId, locationId }) =>
    (locationId ? ofPlace.get(locationId) : assetId === null ? undefined : ofMachine.get(assetId)) ??
    standsOf(undefined);
}

async function writeLines(
  tx: Tx,
  orders: readonly NewOrder[],
  ids: readonly OrderId[],
  standing: readonly Standing[],
): Promise<Written[]> {
  const standsAt = await whereTheyStand(tx, orders);
  const rows = orders.flatMap((order, i) =>
    order.lines.map((line, at) => ({
      ...{ order, orderId: ids[i] as OrderId, line, said: standing[i]?.said.get(at) },
      ...standsAt(line),
    })),
  );
  const columns = [
    'order_id',
    'asset_id',
    'visit_id',
    'minutes',
    'visit_price',
    'plan',
    'location_id',
    'place_id',
    'site_id',
    'cover_cause',
    'asks_findings',
    'verdict',
    'promises',
    'symptom',
    'fault',
    'cause_found',
    'remedy',
    'labour_minutes',
    'parts_cost',
    'other_cost',
  ];
  const first = await bulkInsert(
    tx.connection,
    'order_line',
    columns,
    rows.map(({ orderId, line: l, said, placeId, siteId }) => [
      ...[orderId, l.assetId, l.visitId, l.minutes, l.visitPrice ?? null],
      ...[l.plan ? JSON.stringify(l.plan) : null, l.locationId ?? null, placeId, siteId],
      ...[l.coverCause ?? null, l.asksFindings ? 1 : 0],
      ...[JSON.stringify(l.verdict), JSON.stringify(l.promises)],
      ...[said?.symptom, said?.fault, said?.cause, said?.remedy].map((x) => x ?? null),
      ...[said?.labourMinutes, said?.partsCost, said?.otherCost].map((x) => x ?? null),
    ]),
  );
  const made = (await insertedIds(tx.connection, first, rows.length)) as OrderLineId[];
  return rows.map(({ order, orderId, line, siteId }, i) => ({
    ...{ order, orderId, line, siteId },
    id: made[i] as OrderLineId,
  }));
}

/** The ids of each order's tasks, line by line. */
async function writeTasks(
  tx: Tx,
  lines: readonly Written[],
  ids: readonly OrderId[],
): Promise<ReadonlyMap<OrderId, number[]>> {
  const next = new Map<OrderId, number>();
  const tasks = lines.flatMap(({ orderId, id, line }) =>
    line.tasks.map((t) => {
      const position = next.get(orderId) ?? 0;
      next.set(orderId, position + 1);
      return { orderId, row: [orderId, id, position, t.text, t.mandatory ? 1 : 0] };
    }),
  );
  const first = await bulkInsert(
    tx.connection,
    'order_task',
    ['order_id', 'order_line_id', 'position', 'text', 'mandatory'],
    tasks.map((t) => t.row),
  );
  const made = await insertedIds(tx.connection, first, tasks.length);
  const of = new Map<OrderId, number[]>(ids.map((id) => [id, []]));
  for (const [i, { orderId }] of tasks.entries()) of.get(orderId)?.push(made[i] as number);
  return of;
}

/**
 * Each visit names the order it was raised as. Found by their ids alone: two that raise at the same time would lock each other's
 * rows on the way through the lines.
 */
async function nameOrders(tx: Tx, lines: readonly Written[]): Promise<void> {
  const named = lines.flatMap(({ orderId, order, line, siteId }) =>
    line.visitId === null ? [] : [[line.visitId, orderId, siteId, order.depotId ?? null]],
  );
  if (named.length === 0) return;
  await tx.connection.query(
    `UPDATE JSON_TABLE(?, '$[*]' COLUMNS (visit INT UNSIGNED PATH '$[0]', made INT UNSIGNED PATH '$[1]',
       site INT UNSIGNED PATH '$[2]', depot INT UNSIGNED PATH '$[3]')) AS named
     STRAIGHT_JOIN visit v ON v.id = named.visit
     SET v.order_id = named.made, v.site_id = named.site, v.depot_id = named.depot`,
    [JSON.stringify(named)],
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
  const ids = await writeOrderRows(tx, orders, standing, book, now);
  const lines = await writeLines(tx, orders, ids, standing);
  const tasks = await writeTasks(tx, lines, ids);
  const linesOf = group(lines, (l) => l.orderId);
  const happened = new Map(
    orders.map((order, i) => {
      const id = ids[i] as OrderId;
      return [
        id,
        order.events(
          tasks.get(id) ?? [],
          (linesOf.get(id) ?? []).map((l) => l.id),
        ),
      ];
    }),
  );
  await writeEvents(
    tx,
    orders.map(({ lines: own }, i) => {
      const orderId = ids[i] as OrderId;
      return {
        orderId,
        tasks: own.flatMap((l) => l.tasks),
        taskIds: tasks.get(orderId) ?? [],
        events: happened.get(orderId) ?? [],
      };
    }),
  );
  if (book) await writeClocks(tx, lines, (id) => happened.get(id) ?? [], book, now);
  await bookDraws(
    tx,
    lines.flatMap(({ orderId, id, line }) => (line.draws ? [{ orderId, lineId: id, ...line.draws }] : [])),
    now,
  );
  for (const kind of new Set(orders.map((o) => o.kind)))
    await copyForms(
      tx,
      kind,
      askedOnce(
        lines
          .filter(({ order }) => order.withForms && order.kind === kind)
          .flatMap(({ orderId, line: { assetId, plan } }) =>
            assetId === null ? [] : [{ orderId, assetId, formIds: plan?.formIds }],
          ),
      ),
    );
  await nameOrders(tx, lines);
  const open = new Set(ids.filter((_, i) => !isFinished((standing[i] as Standing).state.stage)));
  await ordersRaised(
    tx,
    lines
      .filter((l) => open.has(l.orderId))
      .map(({ orderId, id: lineId, line, order }) => ({
        ...{ orderId, lineId, plan: line.plan ?? null, followsId: order.followsId ?? null },
      })),
    now,
  );
  await keepCourses(
    tx,
    orders.flatMap((order, i) => {
      const [id, { technicianId, doneAt }] = [ids[i] as OrderId, (standing[i] as Standing).state];
      const of = { ...order, id, technicianId, depotId: order.depotId ?? null, events: happened.get(id) ?? [] };
      return doneAt === null ? [] : [of];
    }),
  );
  return ids;
}
