// Follow-ups and machines added: what was left goes on with an order of its own, linked both ways; one more machine joins an order.
import { eq } from 'drizzle-orm';
import type { Asked } from '#api/contract.ts';
import { followUp, type addLine } from '#api/calls.ts';
import { orderNumber } from '#api/shapes.ts';
import { asId, type OrderId, type OrderLineId, type PersonId } from '#core/ids.ts';
import { isFinished, isWorkedAround, stateOfOrder, type OrderEvent, type OrderState } from '#core/orders/index.ts';
import { localDateAt, type Instant } from '#core/time/index.ts';
import { calendarBook } from '../calendars/index.ts';
import { bookDraws } from '../entitlement/index.ts';
import type { Database, Tx } from '../platform/database.ts';
import { announce } from '../platform/live.ts';
import { accept, refuse } from '../platform/refuse.ts';
import { contentOf, mustBeSame } from '../platform/request-key.ts';
import { alreadyRecorded, appendAct } from './commands.ts';
import { classesAskingFindings, decideLines, isInternal, keptOf, stoodAt, type DecidedLine } from './decide.ts';
import { indexOrders } from './finder.ts';
import { copyForms } from './forms.ts';
import { loadOrder, type LineRow, type LoadedOrder } from './loading.ts';
import { raiseMany, type NewLine } from './raise-many.ts';
import type { Recorded } from './raised-events.ts';
import { orderLine, workOrder } from './tables.ts';

type FollowUpAsk = Asked<typeof followUp>['body'];

/** The lines that go on; refused: ones of another order, taken off, or that go on already. */
function linesGoingOn({ lines }: LoadedOrder, state: OrderState, ids: readonly OrderLineId[]): LineRow[] {
  return [...new Set(ids)].map((id) => {
    const line = lines.find((l) => l.id === id);
    if (!line || state.off.has(id)) refuse('not-found', 'That machine is not on this order.', 'lineIds');
    const on = state.handedOn.get(id);
    if (on !== undefined)
      refuse('conflict', `It goes on with ${orderNumber(on)} already; add to that order.`, 'lineIds');
    return line;
  });
}

/** Tasks of a line that are still to do, as they were asked. */
const tasksLeft = ({ facts }: LoadedOrder, state: OrderState, line: LineRow): NewLine['tasks'] =>
  facts.tasks
    .filter((t) => t.lineId === line.id && state.tasks.get(t.id) !== 'done')
    .map(({ text, mandatory }) => ({ text, mandatory }));

/** Pauses of the promise that goes on: it is one promise, wherever it runs. */
const pausesOf = (events: readonly OrderEvent[], now: Instant): Recorded[] =>
  events.flatMap(({ at, act }) =>
    act.kind === 'paused' || act.kind === 'resumed' ? [{ at, recordedAt: now, by: null, act }] : [],
  );

async function raiseRest(
  tx: Tx,
  loaded: LoadedOrder,
  state: OrderState,
  going: readonly LineRow[],
  ask: FollowUpAsk & { readonly who: PersonId; readonly content: string },
  now: Instant,
): Promise<{ id: OrderId; takesPromise: boolean }> {
  const { order, events } = loaded;
  const open = going.filter((l) => order.kind === 'repair' && !state.restored.has(l.id));
  const takesPromise = open.length > 0;
  const startedAt = takesPromise ? order.startedAt : now;
  const said = [ask.reason, ask.parts && `parts needed: ${ask.parts}`].filter((x) => x).join('; ');
  const [id] = await raiseMany(
    tx,
    [
      {
        ...{ kind: order.kind, title: order.title, priority: state.priority ?? order.priority },
        ...{ customerId: order.customerId, agreementId: order.agreementId, zone: order.zone, startedAt },
        ...{ callerId: order.callerId, callerSaid: order.callerSaid, contactId: order.contactId },
        ...{ customerReference: order.customerReference, internal: order.internal, followsId: order.id },
        ...{ wishedOn: ask.wishedOn ?? null, depotId: order.depotId },
        ...{ requestKey: ask.requestKey, requestContent: ask.content },
        lines: going.map((line): NewLine => {
          const { restoration, workaround } = open.includes(line) ? line.promises : {};
          return {
            ...{ assetId: line.assetId, locationId: line.locationId, visitId: null, minutes: line.minutes },
            plan: line.plan,
            ...{ coverCause: line.coverCause, verdict: line.verdict, asksFindings: line.asksFindings },
            promises: {
              ...(workaround && !isWorkedAround(events, line.id) && { workaround }),
              ...(restoration && { restoration }),
            },
            tasks: tasksLeft(loaded, state, line),
          };
        }),
        withForms: true,
        events: (_, ids) => [
          {
            at: startedAt,
            recordedAt: now,
            by: ask.who,
            act: { kind: 'raised', text: `rest of ${orderNumber(order.id)}: ${said}` },
          },
          ...(takesPromise ? pausesOf(events, now) : []),
          ...going.flatMap((line, i): Recorded[] => {
            const { symptom, fault, cause } = state.found.get(line.id) ?? {};
            if (!symptom && !fault && !cause) return [];
            const found = { symptom: symptom ?? null, fault: fault ?? null, cause: cause ?? null, remedy: null };
            return [
              {
                at: startedAt,
                recordedAt: now,
                by: ask.who,
                act: { kind: 'found', lineId: ids[i] as number, ...found },
              },
            ];
          }),
        ],
      },
    ],
    await calendarBook(tx.db),
    now,
  );
  if (id === undefined) throw new Error('a follow-up was raised without a number');
  return { id, takesPromise };
}

/**
 * Raises an order for what was left of some lines. Where a repaired machine is not back in use, its promise goes on there as the same
 * one, from the same start and with the same pauses; otherwise the promises stay where they were kept. A repeated request key gives
 * the first one again. Source: domain-work, Orders.
 */
export async function followUpOn(
  database: Database,
  who: PersonId,
  id: OrderId,
  ask: FollowUpAsk,
  now: Instant,
): Promise<OrderId> {
  return database.transact((tx) => followUpIn(tx, who, id, ask, now));
}

/** The same inside an open transaction. */
export async function followUpIn(tx: Tx, who: PersonId, id: OrderId, ask: FollowUpAsk, now: Instant): Promise<OrderId> {
  const loaded = await loadOrder(tx.db, id, 'lock');
  const content = contentOf({ followUp: id, ...ask });
  const [sent] = await tx.db
    .select({ id: workOrder.id, content: workOrder.requestContent })
    .from(workOrder)
    .where(eq(workOrder.requestKey, ask.requestKey));
  if (sent) {
    mustBeSame(sent.content, content);
    return sent.id;
  }
  if (loaded.order.stage === 'called off')
    refuse('wrong-stage', 'The order is called off: raise a new one for what is to be done.', 'lineIds');
  const state = accept(stateOfOrder(loaded.facts, loaded.events));
  const going = linesGoingOn(loaded, state, ask.lineIds);
  const made = await raiseRest(tx, loaded, state, going, { ...ask, who, content }, now);
  const { takesPromise } = made;
  const act = {
    kind: 'followed up',
    orderId: made.id,
    lineIds: going.map((l) => l.id),
    takesPromise,
    text: ask.reason,
  } as const;
  await appendAct(tx, loaded, { at: now, act, requestKey: ask.requestKey, who, content }, now);
  await indexOrders(tx, [made.id]);
  await announce(tx, followUp, [{ subject: 'order', id: made.id }]);
  return made.id;
}

/** Adds a machine of the same customer to an open order: cover and promises are decided as of now, and run from now. */
export const addLineTo = (
  database: Database,
  who: PersonId,
  id: OrderId,
  ask: Asked<typeof addLine>['body'],
  now: Instant,
): Promise<OrderLineId> => database.transact((tx) => addLineIn(tx, who, id, ask, now));

/** The same inside an open transaction. */
export async function addLineIn(
  tx: Tx,
  who: PersonId | null,
  id: OrderId,
  { requestKey, assetId, cause, text }: Asked<typeof addLine>['body'],
  now: Instant,
): Promise<OrderLineId> {
  const loaded = await loadOrder(tx.db, id, 'lock');
  const { order, lines } = loaded;
  const content = contentOf({ addLine: assetId, cause, text });
  const there = lines.find((l) => l.assetId === assetId);
  if ((await alreadyRecorded(tx, loaded, requestKey, content)) !== null && there) return there.id;
  if (there) refuse('conflict', 'That machine is on the order already.', 'assetId');
  if (isFinished(order.stage))
    refuse('wrong-stage', `The order is ${order.stage}: raise a follow-up order instead.`, 'assetId');
  const { kind, priority, zone: fallbackZone } = order;
  const asked = [{ assetId, cause }];
  const book = await calendarBook(tx.db);
  const [decided] = await decideLines(
    tx.db,
    book,
    asked,
    { kind, priority, at: now, fallbackZone },
    'lock',
    () => 'assetId',
  );
  const line = decided as DecidedLine;
  if (line.customerId !== order.customerId)
    refuse('conflict', `${line.tag} is another customer’s machine; raise an order of its own for it.`, 'assetId');
  if (order.internal && !isInternal(line))
    refuse('conflict', `${line.tag} is not of our own fleet; raise an order of its own for it.`, 'assetId');
  const asking = await classesAskingFindings(tx.db, line.classId === null ? [] : [line.classId]);
  const [made] = await tx.db
    .insert(orderLine)
    .values({
      ...{ orderId: id, assetId, ...stoodAt(line), since: now, coverCause: cause, ...keptOf(line) },
      asksFindings: kind === 'repair' && asking.size > 0,
    })
    .$returningId();
  const lineId = asId<OrderLineId>(made?.id as number);
  await copyForms(tx, kind, [{ orderId: id, assetId }]);
  const draws = line.taken?.verdict.draws ?? [];
  await bookDraws(tx, [{ orderId: id, lineId, on: localDateAt(line.zone, now), draws }], now);
  const again = await loadOrder(tx.db, id, 'lock');
  const act = { kind: 'line added', lineId, text: `${line.tag} added${text ? `: ${text}` : ''}` } as const;
  await appendAct(tx, again, { at: now, act, requestKey, who, content }, now);
  return lineId;
}
