// Commands on work orders: raising a repair, recording what happened, and deriving clocks in the same transaction.
import { and, eq, inArray } from 'drizzle-orm';
import type { Asked } from '#api/contract.ts';
import { recordAct } from '#api/orders.ts';
import { orderNumber } from '#api/shapes.ts';
import { actsOnOrderOf } from '#core/people.ts';
import type { Cause } from '#core/entitlement/index.ts';
import type { AssetId, ContactId, CustomerId, OrderId, PersonId, ScheduleId } from '#core/ids.ts';
import {
  clockEventsOf,
  effortByLine,
  recordEvent,
  stateOfOrder,
  type Effort,
  type OrderAct,
  type OrderEvent,
  type OrderStage,
  type OrderState,
} from '#core/orders/index.ts';
import { deriveClocks, type Clock, type Priority } from '#core/service-levels/index.ts';
import { localDateAt, sayDate, type Instant, type LocalDate, type Zone } from '#core/time/index.ts';
import { calendarBook, type CalendarBook } from '../calendars/index.ts';
import { isTaken, type Database, type Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { announce } from '../platform/live.ts';
import { accept, refuse } from '../platform/refuse.ts';
import { contentOf, mustBeSame } from '../platform/request-key.ts';
import { person } from '../platform/tables.ts';
import { contact } from '../customers/tables.ts';
import { visit } from '../upkeep/tables.ts';
import { clock, orderEvent, orderLine, workOrder } from './tables.ts';
import { coversOf, drawHours, giveBack, takeDecision } from '../entitlement/index.ts';
import { storedClock } from './clock-rows.ts';
import { raiseMany } from './raise-many.ts';
import { loadOrder, type LineRow, type LoadedOrder, type OrderRow } from './loading.ts';
import { bookMeterAnswers } from './forms.ts';
import { indexOrders } from './finder.ts';

/** A derived clock as a row. */
function clockValues(order: OrderRow, line: LineRow, derived: Clock): typeof clock.$inferInsert {
  return {
    orderLineId: line.id,
    orderId: order.id,
    assetId: line.assetId,
    customerId: order.customerId,
    agreementId: order.agreementId,
    zone: order.zone,
    ...storedClock(derived),
  };
}

/** The order's clocks as its events say them. */
export const clocksSaid = (
  { order, lines, events }: Pick<LoadedOrder, 'order' | 'lines' | 'events'>,
  book: CalendarBook,
  now: Instant,
): (typeof clock.$inferInsert)[] =>
  lines.flatMap((line) =>
    deriveClocks(order.startedAt, clockEventsOf(events), line.promises, book.timeOf, now).map((derived) =>
      clockValues(order, line, derived),
    ),
  );

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
  await tx.db.delete(clock).where(eq(clock.orderId, order.id));
  if (values.length > 0) await tx.db.insert(clock).values(values);
}

/** What of an order's row follows from its state. */
export const stateColumns = ({ stage, plannedFor, pausedSince, restoredAt, doneAt, ...who }: OrderState) => ({
  ...{ stage, plannedFor, pausedSince, restoredAt, doneAt },
  ...{ technicianId: who.technicianId, technician: who.technician },
});

/** The day on which a visit's order was done, by the place's zone. */
export const completedOf = (order: OrderRow, { doneAt }: OrderState): LocalDate | null =>
  doneAt === null ? null : localDateAt(order.zone, doneAt);

/** Visits whose machines were left undone are owed again: held with the reason until somebody decides. Gives whose schedules they are of. */
async function handBack(
  tx: Tx,
  { id, zone }: OrderRow,
  lines: readonly LineRow[],
  { left, doneAt }: OrderState,
): Promise<ScheduleId[]> {
  const schedules: ScheduleId[] = [];
  for (const line of lines) {
    const reason = left.get(line.id);
    if (reason === undefined || line.visitId === null || doneAt === null) continue;
    const [of] = await tx.db
      .select({ scheduleId: visit.scheduleId })
      .from(visit)
      .where(and(eq(visit.id, line.visitId), eq(visit.orderId, id)))
      .for('update');
    // It was handed back before, and may be on another order by now.
    if (!of) continue;
    const holdReason = `left undone on ${sayDate(localDateAt(zone, doneAt))} (order ${orderNumber(id)}): ${reason}`;
    await tx.db
      .update(visit)
      .set({ state: 'held', holdReason, holdUntil: null, orderId: null, runId: null, completedOn: null })
      .where(eq(visit.id, line.visitId));
    await tx.db.delete(visit).where(eq(visit.absorbedBy, line.visitId));
    schedules.push(of.scheduleId);
  }
  return schedules;
}

/** Writes what follows from the order's state, for it and the visits it was raised for; gives the schedules of those owed again. */
export async function writeState(
  tx: Tx,
  order: OrderRow,
  lines: readonly LineRow[],
  state: OrderState,
): Promise<ScheduleId[]> {
  await tx.db
    .update(workOrder)
    .set({ ...stateColumns(state), version: order.version + 1 })
    .where(eq(workOrder.id, order.id));
  if (lines.every((l) => l.visitId === null)) return [];
  const owedAgain = state.left.size === 0 ? [] : await handBack(tx, order, lines, state);
  const own = await tx.db.select({ id: visit.id }).from(visit).where(eq(visit.orderId, order.id));
  const ids = own.map((v) => v.id);
  if (ids.length === 0) return owedAgain;
  const isCalledOff = state.stage === 'called off';
  const completedOn = completedOf(order, state);
  await tx.db
    .update(visit)
    .set({ completedOn, ...(isCalledOff && { state: 'called off' as const }) })
    .where(inArray(visit.id, ids));
  // Smaller visits are done with the larger one that absorbed them, and owed again without it.
  const absorbed = inArray(visit.absorbedBy, ids);
  if (isCalledOff) await tx.db.delete(visit).where(absorbed);
  else await tx.db.update(visit).set({ completedOn }).where(absorbed);
  return owedAgain;
}

/** What the job took, kept with its lines; the labour of each is drawn from the hours its verdict named. */
async function bookEffort(
  tx: Tx,
  order: OrderRow,
  lines: readonly LineRow[],
  effort: ReadonlyMap<number, Effort>,
  at: Instant,
  now: Instant,
): Promise<void> {
  for (const line of lines) {
    const own = effort.get(line.id);
    if (!own) continue;
    await tx.db.update(orderLine).set(own).where(eq(orderLine.id, line.id));
    if (own.labourMinutes !== null && own.labourMinutes > 0)
      await drawHours(
        tx,
        { orderId: order.id, lineId: line.id },
        line.verdict?.verdict.draws ?? [],
        own.labourMinutes,
        localDateAt(order.zone, at),
        now,
      );
  }
}

export type ActAsk = {
  readonly at: Instant;
  readonly act: OrderAct;
  readonly requestKey: string;
  readonly who: PersonId | null;
};

/** Records an act with its own time; the same request key a second time changes nothing. */
export async function recordOrderAct(database: Database, id: OrderId, ask: ActAsk, now: Instant): Promise<OrderStage> {
  return database.transact((tx) => recordActIn(tx, id, ask, now));
}

/** As it is sent: who goes by their id, and by name only where they are none of ours. */
type SentAct = Asked<typeof recordAct>['body']['act'];

/** The same for a person: a technician acts on what is theirs, and work is planned for somebody who is there to do it. */
export async function recordActOf(
  database: Database,
  who: Person,
  id: OrderId,
  ask: Pick<ActAsk, 'at' | 'requestKey'> & { readonly act: SentAct },
  now: Instant,
): Promise<OrderStage> {
  return database.transact(async (tx) => {
    const [order] = await tx.db
      .select({ technicianId: workOrder.technicianId, technician: workOrder.technician })
      .from(workOrder)
      .where(eq(workOrder.id, id))
      .for('update');
    if (order && !actsOnOrderOf(who, order))
      refuse(
        'not-allowed',
        `This order is ${order.technician}’s; you may read it. Ask a dispatcher to plan it for you.`,
      );
    const act = await withTechnician(tx, ask.act);
    return recordActIn(tx, id, { ...ask, act, who: who.id }, now);
  });
}

/** The act with the name of who goes. Refused: a person who is no technician of ours, or nobody at all. */
async function withTechnician(tx: Tx, act: SentAct): Promise<OrderAct> {
  if (act.kind !== 'planned' && act.kind !== 'told') return act;
  if (act.kind === 'told' && act.technicianId === null) {
    if (act.technician === '') refuse('missing', 'Choose who comes, or write their name.', 'act.technicianId');
    return act;
  }
  const [known] = await tx.db
    .select({ name: person.name })
    .from(person)
    .where(and(eq(person.id, act.technicianId as PersonId), eq(person.role, 'technician'), eq(person.active, true)));
  if (!known) refuse('not-found', 'There is no such technician; choose one of those offered.', 'act.technicianId');
  return { ...act, technician: known.name };
}

/** The same inside an open transaction: the event, what is derived from it, and the notice. */
export async function recordActIn(tx: Tx, id: OrderId, ask: ActAsk, now: Instant): Promise<OrderStage> {
  const { order, facts, events, lines } = await loadOrder(tx.db, id, 'lock');
  const [sent] = await tx.db
    .select({ content: orderEvent.requestContent })
    .from(orderEvent)
    .where(and(eq(orderEvent.orderId, id), eq(orderEvent.requestKey, ask.requestKey)));
  const requestContent = contentOf({ at: ask.at, act: ask.act });
  if (sent) {
    mustBeSame(sent.content, requestContent);
    return order.stage;
  }
  const event: OrderEvent = { at: ask.at, recordedAt: now, act: ask.act };
  const state = accept(recordEvent(facts, events, event));
  await tx.db.insert(orderEvent).values({
    orderId: id,
    at: event.at,
    recordedAt: now,
    personId: ask.who,
    act: ask.act,
    requestKey: ask.requestKey,
    requestContent,
  });
  const owedAgain = await writeState(tx, order, lines, state);
  if (ask.act.kind === 'form') {
    const before = accept(stateOfOrder(facts, events)).forms.get(ask.act.formId);
    await bookMeterAnswers(tx, ask.act.formId, { now: ask.act.answers, before }, event.at, ask.who, now);
  }
  if (ask.act.kind === 'done' && ask.act.effort)
    await bookEffort(tx, order, lines, effortByLine(ask.act.effort, lines, state.left), event.at, now);
  if (state.stage === 'called off') await giveBack(tx, id, now);
  if (ask.act.kind === 'done')
    await giveBack(
      tx,
      id,
      now,
      lines.filter((l) => state.left.has(l.id)).map((l) => l.id),
    );
  await deriveOrderClocks(tx, await calendarBook(tx.db), order, lines, [...events, event], now);
  await announce(tx, recordAct, [
    { subject: 'order', id },
    ...owedAgain.map((scheduleId) => ({ subject: 'schedule', id: scheduleId })),
  ]);
  return state.stage;
}

export type RepairAsk = {
  readonly assetId: AssetId;
  readonly priority: Priority;
  readonly cause: Cause;
  readonly startedAt: Instant;
  readonly title: string;
  readonly raisedText: string;
  readonly requestKey: string | null;
  readonly who: PersonId | null;
  readonly fallbackZone: Zone;
  readonly callerId?: ContactId | null;
  readonly lateReason?: string | undefined;
};

const contentOfRepair = ({ assetId, priority, cause, startedAt, title, callerId, lateReason }: RepairAsk): string =>
  contentOf({ assetId, priority, cause, startedAt, title, callerId: callerId ?? null, lateReason: lateReason ?? '' });

/** Decides cover and promises for a repair; preview and raising both stand on it. */
export async function decideRepair(
  db: Tx['db'],
  ask: Pick<RepairAsk, 'assetId' | 'priority' | 'cause' | 'startedAt' | 'fallbackZone'>,
  lock: 'look' | 'lock' = 'look',
) {
  const book = await calendarBook(db);
  const subject = (await coversOf(db, [ask.assetId], lock, 'book')).get(ask.assetId);
  if (!subject) refuse('not-found', 'That asset does not exist.', 'assetId');
  const taken = await takeDecision(db, book, subject, {
    at: ask.startedAt,
    kind: 'repair',
    cause: ask.cause,
    priority: ask.priority,
    fallbackZone: ask.fallbackZone,
  });
  return { book, subject, taken };
}

/** Raises a repair order inside an open transaction: verdict stored as taken, clocks running from its start. */
export async function raiseRepairIn(tx: Tx, ask: RepairAsk, now: Instant): Promise<OrderId> {
  // Read under lock: of two orders raised at once, the second sees what the first drew.
  const { book, subject, taken } = await decideRepair(tx.db, ask, 'lock');
  const { verdict, zone, promises } = taken;
  const [id] = await raiseMany(
    tx,
    [
      {
        kind: 'repair',
        title: ask.title,
        priority: ask.priority,
        customerId: subject.customerId,
        agreementId: verdict.agreementId,
        zone,
        startedAt: ask.startedAt,
        callerId: await callerOf(tx, ask.callerId ?? null, subject.customerId),
        requestKey: ask.requestKey,
        requestContent: contentOfRepair(ask),
        lines: [
          {
            assetId: ask.assetId,
            visitId: null,
            minutes: null,
            verdict: { verdict, sentence: taken.sentence, promise: taken.promise },
            promises,
            draws: { on: localDateAt(zone, ask.startedAt), draws: verdict.draws },
            tasks: [],
          },
        ],
        withForms: true,
        events: () => [
          { at: ask.startedAt, recordedAt: now, by: ask.who, act: { kind: 'raised', text: ask.raisedText } },
        ],
      },
    ],
    book,
    now,
  );
  if (id === undefined) throw new Error('a repair was raised without a number');
  await indexOrders(tx, [id]);
  await announce(tx, recordAct, [{ subject: 'order', id }]);
  return id;
}

/** The contact who called; refused when it is not one of the customer's. */
async function callerOf(tx: Tx, id: ContactId | null, customerId: CustomerId): Promise<ContactId | null> {
  if (id === null) return null;
  const [known] = await tx.db
    .select({ id: contact.id })
    .from(contact)
    .where(and(eq(contact.id, id), eq(contact.customerId, customerId)));
  return known?.id ?? refuse('not-found', 'That is no contact of this customer; choose another.', 'callerId');
}

const LATE_CALL_MS = 30 * 86_400_000;

/** Raises a repair from a call. Refused: calls from the future, or of more than 30 days ago without the reason why they are told so late. A repeated request key gives the first order again. */
export async function raiseRepairFromCall(database: Database, ask: RepairAsk, now: Instant): Promise<OrderId> {
  checkReceived(ask.startedAt, ask.lateReason, now);
  try {
    return await database.transact((tx) => raiseRepairIn(tx, ask, now));
  } catch (error) {
    if (!isTaken(error) || ask.requestKey === null) throw error;
    const [row] = await database.db
      .select({ id: workOrder.id, content: workOrder.requestContent })
      .from(workOrder)
      .where(eq(workOrder.requestKey, ask.requestKey));
    if (!row) throw error;
    mustBeSame(row.content, contentOfRepair(ask));
    return row.id;
  }
}

export function checkReceived(at: Instant, lateReason: string | undefined, now: Instant): void {
  if (at > now + 120_000) refuse('in-the-future', 'The call cannot have come in later than now.', 'receivedAt');
  if (at < now - LATE_CALL_MS && !lateReason?.trim())
    refuse(
      'out-of-order',
      'This call came in more than 30 days ago: check the date, or say why it is told only now.',
      'receivedAt',
    );
}
