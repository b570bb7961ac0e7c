// Decided again: another priority, machine or cause, as of the order's start; what held before is kept.
import { and, eq, inArray } from 'drizzle-orm';
import type { Answer, Asked } from '#api/contract.ts';
import type { changeOrder } from '#api/calls.ts';
import { type previewChange } from '#api/calls.ts';
import type { ClockOut } from '#api/orders.ts';
import type { AssetId, CustomerId, OrderId, PersonId } from '#core/ids.ts';
import { isFinished, type ChangedAct } from '#core/orders/index.ts';
import { localDateAt, type Instant } from '#core/time/index.ts';
import { calendarBook, type CalendarBook } from '../calendars/index.ts';
import { bookDraws, giveBack } from '../entitlement/index.ts';
import type { Database, Db, Tx } from '../platform/database.ts';
import { orderIsDecidedAgain } from '../platform/order-life.ts';
import { previewed } from '../platform/preview.ts';
import { refuse } from '../platform/refuse.ts';
import { contentOf } from '../platform/request-key.ts';
import { alreadyRecorded, appendAct } from './commands.ts';
import { clocksOf } from './clock-rows.ts';
import { classesAskingFindings, decideLines, isInternal, keptOf, stoodAt, type DecidedLine } from './decide.ts';
import { copyForms } from './forms.ts';
import { loadOrder, type LineRow, type LoadedOrder } from './loading.ts';
import { mustBeNamed } from './settings.ts';
import { formerDecision, orderForm, orderLine, workOrder } from './tables.ts';

type Ask = Asked<typeof previewChange>['body'];
type Again = {
  readonly line: LineRow;
  readonly cause: NonNullable<LineRow['coverCause']>;
  readonly decided: DecidedLine;
};
type Priority = LoadedOrder['order']['priority'];

/** Who bears the visits of a schedule, and what is promised for them, is the schedule's; the place has nothing to decide. */
const isDecidedByCall = ({ visitId }: LineRow): boolean => visitId === null;

function wantedOf({ order, lines }: LoadedOrder, ask: Ask) {
  const priority = ask.priority ?? order.priority;
  const asked = new Map(ask.lines.map((l) => [l.lineId, l]));
  ask.lines.forEach(({ lineId, assetId }, i) => {
    const line = lines.find((l) => l.id === lineId);
    if (!line) refuse('not-found', 'That machine is not on this order.', `lines.${i}.lineId`);
    if (!isDecidedByCall(line))
      refuse(
        'unsupported',
        'It is on the order for a visit of its schedule; skip or move that visit instead.',
        `lines.${i}.lineId`,
      );
    if (assetId && lines.some((l) => l.id !== lineId && l.assetId === assetId))
      refuse('conflict', 'That machine is on the order already.', `lines.${i}.assetId`);
  });
  // Another priority concerns every machine that was called for.
  const again = lines.filter((l) => isDecidedByCall(l) && (priority !== order.priority || asked.has(l.id)));
  return {
    priority,
    again: again.flatMap((line) => {
      const own = asked.get(line.id);
      const assetId = own?.assetId ?? line.assetId;
      const cause = own?.cause ?? line.coverCause ?? 'unknown';
      return assetId === null ? [] : [{ line, assetId, cause }];
    }),
  };
}

/** The customer is the same: another customer's machine is another order. */
function mustBeTheirs(decided: readonly DecidedLine[], customerId: CustomerId): void {
  const other = decided.find((d) => d.customerId !== customerId);
  if (other)
    refuse(
      'conflict',
      `${other.tag} is another customer’s machine: call this order off and raise one for them.`,
      'lines.0.assetId',
    );
}

/** What is decided as of the start of each line; refused where nothing would be another. */
async function decideAgain(db: Db, book: CalendarBook, loaded: LoadedOrder, ask: Ask) {
  const { order } = loaded;
  const { priority, again } = wantedOf(loaded, ask);
  await mustBeNamed(db, priority, 'priority');
  const decided: Again[] = [];
  for (const at of new Set(again.map(({ line }) => line.since ?? order.startedAt))) {
    const own = again.filter(({ line }) => (line.since ?? order.startedAt) === at);
    const { kind, zone: fallbackZone } = order;
    const taken = await decideLines(
      db,
      book,
      own,
      { kind, priority, at, fallbackZone },
      'lock',
      (i) => `lines.${i}.assetId`,
    );
    mustBeTheirs(taken, order.customerId);
    own.forEach(({ line, cause }, i) => decided.push({ line, cause, decided: taken[i] as DecidedLine }));
  }
  const isAnother = ({ line, cause, decided: d }: Again): boolean =>
    line.assetId !== d.assetId || (line.coverCause ?? 'unknown') !== cause;
  if (priority === order.priority && !decided.some(isAnother))
    refuse('missing', 'Nothing would change: give another priority, machine or cause.', 'priority');
  return { priority, decided };
}

const NOT_DECIDED = { sentence: 'No machine was named.', promise: '' };
const saidOf = (line: LineRow) =>
  line.verdict ? { sentence: line.verdict.sentence, promise: line.verdict.promise } : NOT_DECIDED;

function actOf(order: LoadedOrder['order'], priority: Priority, again: readonly Again[], text: string): ChangedAct {
  return {
    kind: 'changed',
    text,
    ...(priority !== order.priority && { priority: { from: order.priority, to: priority } }),
    lines: again.map(({ line, cause, decided }) => {
      const kept = keptOf(decided).verdict;
      const was = line.coverCause ?? 'unknown';
      return {
        lineId: line.id,
        ...(line.assetId !== decided.assetId && { machine: { from: line.tag, to: decided.tag } }),
        ...(was !== cause && { cause: { from: was, to: cause } }),
        before: saidOf(line),
        after: kept ? { sentence: kept.sentence, promise: kept.promise } : NOT_DECIDED,
      };
    }),
  };
}

/** The order's lines as they are after it was decided again. */
const linesAfter = (lines: readonly LineRow[], again: readonly Again[]): LineRow[] =>
  lines.map((line) => {
    const own = again.find((a) => a.line.id === line.id);
    if (!own) return line;
    const { assetId, tag } = own.decided;
    return {
      ...{ ...line, ...keptOf(own.decided) },
      ...{ assetId, tag, locationId: null, ...stoodAt(own.decided), coverCause: own.cause },
    };
  });

/** The forms of a machine that is no more on the order go, unless they were answered; those of the new one come. */
async function changeForms(
  tx: Tx,
  { order, facts, events }: LoadedOrder,
  { assetId: from, plan }: LineRow,
  to: AssetId,
): Promise<void> {
  if (from !== null) {
    const answered = new Set(events.flatMap(({ act }) => (act.kind === 'form' ? [act.formId] : [])));
    const open = facts.forms.filter((f) => !answered.has(f.id)).map((f) => f.id);
    if (open.length > 0)
      await tx.db
        .delete(orderForm)
        .where(and(eq(orderForm.orderId, order.id), eq(orderForm.assetId, from), inArray(orderForm.id, open)));
  }
  await copyForms(tx, order.kind, [{ orderId: order.id, assetId: to, formIds: plan?.formIds }]);
}

/** The agreement it is under, and whether it is internal, follow from its machines; not where visits of a schedule are on it. */
function headAfter({ order }: LoadedOrder, lines: readonly LineRow[], again: readonly Again[]) {
  if (!lines.every(isDecidedByCall)) return { agreementId: order.agreementId, internal: order.internal };
  const agreements = lines.flatMap((l) => l.verdict?.verdict.agreementId ?? []);
  const all = again.length === lines.length;
  return {
    agreementId: agreements[0] ?? null,
    internal: all ? again.every((d) => isInternal(d.decided)) : order.internal,
  };
}

async function writeAgain(tx: Tx, loaded: LoadedOrder, again: readonly Again[], now: Instant): Promise<void> {
  const { order } = loaded;
  const asking = await classesAskingFindings(
    tx.db,
    again.flatMap((a) => a.decided.classId ?? []),
  );
  for (const { line, cause, decided } of again) {
    const { id: orderLineId, assetId, coverCause, verdict, promises } = line;
    await tx.db.insert(formerDecision).values({ orderLineId, assetId, coverCause, verdict, promises, until: now });
    await tx.db
      .update(orderLine)
      .set({
        ...keptOf(decided),
        ...{ assetId: decided.assetId, locationId: null, ...stoodAt(decided), coverCause: cause },
        asksFindings: order.kind === 'repair' && decided.classId !== null && asking.has(decided.classId),
      })
      .where(eq(orderLine.id, line.id));
    if (decided.assetId !== null && decided.assetId !== line.assetId)
      await changeForms(tx, loaded, line, decided.assetId);
  }
  await bookDraws(
    tx,
    again.map(({ line, decided }) => ({
      orderId: order.id,
      lineId: line.id,
      on: localDateAt(decided.zone, line.since ?? order.startedAt),
      draws: decided.taken?.verdict.draws ?? [],
    })),
    now,
  );
}

type Change = Asked<typeof changeOrder>['body'];

export async function changeOrderIn(
  tx: Tx,
  who: PersonId | null,
  id: OrderId,
  { requestKey, text, ...ask }: Change,
  now: Instant,
) {
  const loaded = await loadOrder(tx.db, id, 'lock');
  const content = contentOf({ change: ask, text });
  if ((await alreadyRecorded(tx, loaded, requestKey, content)) !== null) return null;
  if (isFinished(loaded.order.stage)) await orderIsDecidedAgain(tx, id);
  const book = await calendarBook(tx.db);
  // What it drew so far is free again for the new decision.
  await giveBack(
    tx,
    id,
    now,
    wantedOf(loaded, ask).again.map((a) => a.line.id),
  );
  const { priority, decided } = await decideAgain(tx.db, book, loaded, ask);
  const lines = linesAfter(loaded.lines, decided);
  const order = { ...loaded.order, ...headAfter(loaded, lines, decided) };
  await writeAgain(tx, loaded, decided, now);
  await tx.db
    .update(workOrder)
    .set({ agreementId: order.agreementId, internal: order.internal })
    .where(eq(workOrder.id, id));
  const act = actOf(loaded.order, priority, decided, text);
  await appendAct(tx, { ...loaded, order, lines }, { at: now, act, requestKey, who, content }, now);
  return { act, decided, book };
}

/**
 * Takes the decision again and records it with both: allowances given back and drawn anew, clocks derived from the same start.
 * A repeated request key changes nothing. Refused: what `decideAgain` refuses, orders that were called off or are settled; of one that is done another cause is taken, while nobody approved what it comes to.
 */
export const changeOrderBy = (
  database: Database,
  who: PersonId,
  id: OrderId,
  body: Change,
  now: Instant,
): Promise<void> =>
  database.transact(async (tx) => {
    await changeOrderIn(tx, who, id, body, now);
  });

/** The same, looked at and given up. */
export const previewChangeOf = (
  database: Database,
  who: PersonId,
  id: OrderId,
  ask: Ask,
  now: Instant,
): Promise<Answer<typeof previewChange>> =>
  previewed(database, async (tx) => {
    const { order } = await loadOrder(tx.db, id, 'lock');
    const clocks = async (): Promise<ClockOut[]> =>
      clocksOf(tx.db, await calendarBook(tx.db), now, { orderId: order.id }, 200);
    const clocksBefore = await clocks();
    const changed = await changeOrderIn(tx, who, id, { ...ask, requestKey: 'a-preview', text: 'a preview' }, now);
    return {
      lines: (changed?.act.lines ?? []).map(({ lineId, before, after }) => {
        const own = changed?.decided.find((d) => d.line.id === lineId) as Again;
        return {
          lineId,
          before: { tag: own.line.tag, ...before },
          after: { tag: own.decided.tag, ...after, considered: [...(own.decided.taken?.verdict.considered ?? [])] },
        };
      }),
      clocksBefore,
      clocksAfter: await clocks(),
    };
  });
