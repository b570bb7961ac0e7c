// Recording what happened to an order, with what follows from it in the same transaction: its state, its clocks, its visits.
import { and, eq, inArray } from 'drizzle-orm';
import { randomUUID } from 'node:crypto';
import type { Asked } from '#api/contract.ts';
import { recordAct } from '#api/orders.ts';
import { orderNumber } from '#api/shapes.ts';
import { standsFor } from '#core/field/index.ts';
import { MANAGERS, type Role } from '#core/people.ts';
import type { OrderId, PersonId, ScheduleId } from '#core/ids.ts';
import {
  asCorrected,
  correctEvent,
  isFinished,
  recordEvent,
  saidOfLines,
  stateOfOrder,
  type OrderAct,
  type OrderEvent,
  type OrderStage,
  type OrderState,
  type SaidOfLine,
} from '#core/orders/index.ts';
import { localDateAt, sayDate, type Instant, type LocalDate } from '#core/time/index.ts';
import { calendarBook } from '../calendars/index.ts';
import type { Database, Tx } from '../platform/database.ts';
import { differences } from '../platform/derived.ts';
import type { Person } from '../platform/http.ts';
import { countsChanged } from '../platform/counts-changed.ts';
import { announce } from '../platform/live.ts';
import { orderIsOver, orderIsPlanned, ordersCharged } from '../platform/order-life.ts';
import { accept, refuse, Refused } from '../platform/refuse.ts';
import { contentOf, mustBeSame } from '../platform/request-key.ts';
import { person } from '../platform/tables.ts';
import { visit } from '../upkeep/tables.ts';
import { orderEvent, orderLine, workOrder } from './tables.ts';
import { giveBack } from '../entitlement/index.ts';
import { actsOn, mustActOn, type ActsOn } from './acting.ts';
import { keepCourses } from './courses.ts';
import { drawLabour, drawLabourAgain } from './draw-labour.ts';
import { writeExceptions } from './exceptions.ts';
import { loadOrder, type KeptEvent, type LineRow, type LoadedOrder, type OrderRow } from './loading.ts';
import { bookMeterAnswers } from './forms.ts';
import { missingElsewhere } from './missing-elsewhere.ts';
import { deriveOrderClocks } from './order-clocks.ts';
import { tellOf } from './telling.ts';

/** What of an order's row follows from its state. */
export const stateColumns = ({
  waitingFor,
  stage,
  plannedFor,
  pausedSince,
  restoredAt,
  doneAt,
  handedOnAt,
  ...who
}: OrderState) => ({
  ...{ stage, plannedFor, pausedSince, waitingFor, restoredAt, doneAt, handedOnAt },
  ...{ technicianId: who.technicianId, technician: who.technician },
  ...(who.priority !== null && { priority: who.priority }),
});

/** What of a line's row follows from what was said of it. */
export const lineColumns = ({ cause, ...said }: SaidOfLine) => ({ ...said, causeFound: cause });

/** The day on which a visit's order was done, by the place's zone. */
export const completedOf = (order: OrderRow, { doneAt }: OrderState): LocalDate | null =>
  doneAt === null ? null : localDateAt(order.zone, doneAt);

/** Visits whose machines were left undone are owed again: held with the reason until somebody decides. Gives whose schedules they are of. */
async function handBack(
  tx: Tx,
  { id, zone }: OrderRow,
  lines: readonly LineRow[],
  { left, doneAt }: OrderState,
  now: Instant,
): Promise<ScheduleId[]> {
  const schedules: ScheduleId[] = [];
  for (const line of lines) {
    const reason = left.get(line.id);
    if (reason === undefined || line.visitId === null || doneAt === null) continue;
    const [of] = await tx.db
      .select({ scheduleId: visit.scheduleId, windowTo: visit.windowTo })
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
    await countsChanged(tx, [of.windowTo], localDateAt(zone, now));
  }
  return schedules;
}

/** Writes what follows from the order's state, for it and the visits it was raised for; gives the schedules of those owed again. */
export async function writeState(
  tx: Tx,
  order: OrderRow,
  lines: readonly LineRow[],
  state: OrderState,
  now: Instant,
): Promise<ScheduleId[]> {
  await tx.db
    .update(workOrder)
    .set({ ...stateColumns(state), version: order.version + 1 })
    .where(eq(workOrder.id, order.id));
  if (lines.every((l) => l.visitId === null)) return [];
  const owedAgain = state.left.size === 0 ? [] : await handBack(tx, order, lines, state, now);
  const own = await tx.db
    .select({ id: visit.id, windowTo: visit.windowTo, completedOn: visit.completedOn })
    .from(visit)
    .where(eq(visit.orderId, order.id));
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
  const changed = own.filter((v) => isCalledOff || v.completedOn !== completedOn);
  await countsChanged(
    tx,
    changed.map((v) => v.windowTo),
    localDateAt(order.zone, now),
  );
  return owedAgain;
}

/** What is said of the lines, kept with them where it is another now. */
export async function writeSaid(
  tx: Tx,
  lines: readonly LineRow[],
  said: ReadonlyMap<number, SaidOfLine>,
): Promise<void> {
  for (const line of lines) {
    const own = said.get(line.id);
    if (own && differences<object>(line, lineColumns(own)).length > 0)
      await tx.db.update(orderLine).set(lineColumns(own)).where(eq(orderLine.id, line.id));
  }
}

export type ActAsk = {
  readonly at: Instant;
  readonly act: OrderAct;
  readonly requestKey: string;
  readonly who: PersonId | null;
  /** Told by a phone: what was found and done there is kept whatever became of the order. */
  readonly onSite?: boolean;
};

/** Records an act with its own time; the same request key a second time changes nothing. */
export async function recordOrderAct(database: Database, id: OrderId, ask: ActAsk, now: Instant): Promise<OrderStage> {
  return database.transact((tx) => recordActIn(tx, id, ask, now));
}

/** The rules name the fields of the act itself; in what was sent they stand below `act`. */
function atAct(fault: unknown, act: OrderAct): never {
  if (!(fault instanceof Refused)) throw fault;
  const isOfAct = (field: string): boolean => field !== 'kind' && (field.split('.')[0] as string) in act;
  throw new Refused(
    fault.refusals.map((r) => (r.field && isOfAct(r.field) ? { ...r, field: `act.${r.field}` } : r)),
    fault.current,
  );
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
  return database.transact((tx) => recordActBy(tx, who, id, ask, now));
}

/** What comes from a phone that was out of reach: whoever arrived first has the order again by their arrival. */
async function mayKeepOrder(
  tx: Tx,
  who: Person,
  of: ActsOn,
  ask: { readonly at: Instant; readonly act: Pick<OrderAct, 'kind'> },
  now: Instant,
): Promise<void> {
  if (await actsOn(tx, who, of)) return;
  const stands = standsFor((await loadOrder(tx.db, of.id, 'look')).events, who.id, ask);
  if (typeof stands === 'object') throw new Refused([stands]);
  if (stands !== 'keeps it' || ask.act.kind !== 'arrived') return;
  const act = { kind: 'told', technicianId: who.id, technician: who.name } as const;
  // As of now: whoever gave it to another did so before this was known.
  await recordActIn(tx, of.id, { at: now, act, requestKey: randomUUID(), who: who.id }, now);
}

/** The same inside an open transaction. */
export async function recordActBy(
  tx: Tx,
  who: Person,
  id: OrderId,
  ask: Pick<ActAsk, 'at' | 'requestKey'> & { readonly act: SentAct },
  now: Instant,
): Promise<OrderStage> {
  const [order] = await tx.db
    .select({ technicianId: workOrder.technicianId, technician: workOrder.technician })
    .from(workOrder)
    .where(eq(workOrder.id, id))
    .for('update');
  if (order && who.onSite) await mayKeepOrder(tx, who, { id, ...order }, ask, now);
  else if (order) await mustActOn(tx, who, { id, ...order });
  if (ask.act.kind === 'done' && ask.act.anyway && !(MANAGERS as readonly Role[]).includes(who.role))
    refuse('not-allowed', 'Only a manager finishes an order although something is missing.', 'act.anyway');
  const act = await withTechnician(tx, ask.act);
  const onSite = who.onSite === true;
  return await recordActIn(tx, id, { ...ask, act, who: who.id, onSite }, now).catch((fault: unknown) =>
    atAct(fault, act),
  );
}

/** The act with the name of who goes. Refused: a person who is no technician of ours, or nobody at all. */
export async function withTechnician(tx: Tx, act: SentAct): Promise<OrderAct> {
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

/** The stage, where an act was recorded already; refused when the key came with something else. */
export async function alreadyRecorded(
  tx: Tx,
  { order }: LoadedOrder,
  requestKey: string,
  content: string,
): Promise<OrderStage | null> {
  const [sent] = await tx.db
    .select({ content: orderEvent.requestContent })
    .from(orderEvent)
    .where(and(eq(orderEvent.orderId, order.id), eq(orderEvent.requestKey, requestKey)));
  if (!sent) return null;
  mustBeSame(sent.content, content);
  return order.stage;
}

/** The same inside an open transaction: the event, what is derived from it, and the notice. */
export async function recordActIn(tx: Tx, id: OrderId, ask: ActAsk, now: Instant): Promise<OrderStage> {
  const loaded = await loadOrder(tx.db, id, 'lock');
  const content = contentOf({ at: ask.at, act: ask.act });
  const before = await alreadyRecorded(tx, loaded, ask.requestKey, content);
  return before ?? (await appendAct(tx, loaded, { ...ask, content }, now)).stage;
}

/** Appends an act to an order that is held under lock, with everything that follows from it. */
export async function appendAct(
  tx: Tx,
  loaded: LoadedOrder,
  ask: ActAsk & { readonly content: string },
  now: Instant,
): Promise<OrderState> {
  const { order, facts, events, recorded: before, lines } = loaded;
  const { act, at } = ask;
  const recorded: OrderEvent = { at, recordedAt: now, act, ...(ask.onSite && { onSite: true }) };
  const also = act.kind === 'done' ? await missingElsewhere(tx.db, loaded) : [];
  const state =
    act.kind === 'corrected'
      ? accept(correctEvent(facts, before, act, now)).state
      : accept(recordEvent(facts, events, recorded, also));
  const [kept] = await tx.db
    .insert(orderEvent)
    .values({
      ...{ orderId: order.id, at, recordedAt: now, personId: ask.who, act, onSite: ask.onSite ?? false },
      ...{ requestKey: ask.requestKey, requestContent: ask.content },
    })
    .$returningId();
  const event: KeptEvent = { ...recorded, id: kept?.id as number, by: ask.who };
  const owedAgain = await writeState(tx, order, lines, state, now);
  await tellOf(tx, { ...order, ...stateColumns(state) }, act, now);
  if (act.kind === 'form') {
    const before = accept(stateOfOrder(facts, events)).forms.get(act.formId);
    await bookMeterAnswers(tx, act.formId, { now: act.answers, before }, at, ask.who, now);
  }
  const all = asCorrected([...before, event]);
  await writeExceptions(tx, loaded, all);
  if (act.kind === 'done' || act.kind === 'found' || act.kind === 'line') {
    const said = saidOfLines(lines, all, state);
    await writeSaid(tx, lines, said);
    if (act.kind === 'done' && act.effort) await drawLabour(tx, order, lines, said, at, now);
  }
  if (act.kind === 'changed') await drawLabourAgain(tx, order, lines, all, act, now);
  if (state.stage === 'called off') await giveBack(tx, order.id, now);
  if (isFinished(state.stage) && act.kind !== 'changed' && act.kind !== 'corrected')
    await orderIsOver(tx, order.id, now);
  if (isFinished(state.stage) && act.kind !== 'note') await ordersCharged(tx, [order.id]);
  else if (act.kind === 'planned' || act.kind === 'unplanned' || act.kind === 'told')
    await orderIsPlanned(tx, order.id, now);
  // What was left undone draws nothing once the work is done, also where it is decided again.
  const undone = state.doneAt === null ? state.off : state.left;
  const returned = lines.filter((l) => undone.has(l.id)).map((l) => l.id);
  if (returned.length > 0) await giveBack(tx, order.id, now, returned);
  const after = { ...order, ...stateColumns(state) };
  await deriveOrderClocks(tx, await calendarBook(tx.db), after, lines, all, now);
  if (state.doneAt !== null) await keepCourses(tx, [{ ...after, events: all }]);
  await announce(tx, recordAct, [
    { subject: 'order', id: order.id },
    ...owedAgain.map((scheduleId) => ({ subject: 'schedule', id: scheduleId })),
  ]);
  return state;
}
