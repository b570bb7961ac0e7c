// What each kind of act from a phone does: the same commands as at a desk, by the same rules.
import { randomUUID } from 'node:crypto';
import { and, eq } from 'drizzle-orm';
import type { AnyContract } from '#api/contract.ts';
import { addReading, swapAsset } from '#api/assets.ts';
import { addLine, followUp } from '#api/calls.ts';
import type { FieldBodyOut } from '#api/field.ts';
import { countPart } from '#api/counts.ts';
import { addFile } from '#api/files.ts';
import { actOnSheet, addEntry as addEntryContract } from '#api/labour.ts';
import { setNeed } from '#api/needs.ts';
import { moveAppointment } from '#api/rota.ts';
import { addAbsence } from '#api/rota-people.ts';
import { recordAct } from '#api/orders.ts';
import { addCost, takeCard } from '#api/settle.ts';
import { transferStock } from '#api/stock.ts';
import { usePart } from '#api/stores.ts';
import type { AttachmentId, OrderId } from '#core/ids.ts';
import { mergeFindings } from '#core/field/index.ts';
import { heldOf, type OrderActKind } from '#core/orders/index.ts';
import { localDateAt, type Instant } from '#core/time/index.ts';
import { attachment } from '../assets/tables.ts';
import { attachIn, freeName, namesAttached, orTaken } from '../assets/index.ts';
import { actOnWeek, addEntry } from '../labour/index.ts';
import { readMeterIn } from '../meters/index.ts';
import { followUpIn, loadOrder, mustActOn, recordActBy, recordActIn, wasSentTo } from '../orders/index.ts';
import { workOrder } from '../orders/tables.ts';
import type { Database, Db, Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { accept, refuse } from '../platform/refuse.ts';
import type { Write } from '../platform/writing.ts';
import { addAbsenceOf, allowPosition, answerIn, keepPosition, sayLateIn } from '../rota/index.ts';
import { addCostTo, leaveToInvoice } from '../settle/index.ts';
import { askForVan, countInVan, handOverFromVan, needMoreOf, receiveIn, useOn } from '../stores/index.ts';
import { addMachine, swapOnSite } from './machines.ts';
import { fieldPhoto } from './tables.ts';

type Kind = FieldBodyOut['kind'];
type Of<K extends Kind> = Extract<FieldBodyOut, { kind: K }>;

/** When it happened, when it came here, and the key under which it is written. */
export type Doing = {
  readonly database: Database;
  readonly write: Write;
  readonly who: Person;
  readonly key: string;
  readonly at: Instant;
  readonly now: Instant;
};

/** What somebody does on site; everything else of an order is the office's. */
const ON_SITE: readonly OrderActKind[] = [
  ...(['arrived', 'task', 'line', 'form', 'found', 'signed', 'worked around', 'restored'] as const),
  ...(['done', 'paused', 'resumed', 'note'] as const),
];

/** What was found, with what was said of it meanwhile beside it. */
async function mergedWith(tx: Tx, { orderId, act, was }: Of<'order'>): Promise<Of<'order'>['act']> {
  if (act.kind !== 'found' || was === undefined) return act;
  const { events } = await loadOrder(tx.db, orderId, 'lock');
  return { ...act, ...accept(mergeFindings(was, heldOf(events).found.get(act.lineId) ?? null, act)) };
}

async function actOnOrder({ write, who, key, at, now }: Doing, body: Of<'order'>): Promise<void> {
  const { orderId, act } = body;
  if (!ON_SITE.includes(act.kind)) refuse('not-allowed', 'The office does this; tell the dispatcher.', 'act.kind');
  await write(async (tx) => {
    const merged = await mergedWith(tx, body);
    return recordActBy(tx, who, orderId, { at, act: merged, requestKey: key }, now);
  });
}

/** Refused: an order that never was theirs. Photos of one that was called off, or went to somebody else, are kept. */
async function mustHaveGone(tx: Tx, who: Person, id: OrderId): Promise<void> {
  const [order] = await tx.db
    .select({ technicianId: workOrder.technicianId, technician: workOrder.technician })
    .from(workOrder)
    .where(eq(workOrder.id, id))
    .for('update');
  if (!order) refuse('not-found', 'That work order does not exist.', 'orderId');
  if (!(await wasSentTo(tx, who, id))) await mustActOn(tx, who, { id, ...order });
}

async function attachPhoto({ write, who, now }: Doing, { orderId, photo, name, signs }: Of<'photo'>): Promise<void> {
  await write(async (tx, told) => {
    await mustHaveGone(tx, who, orderId);
    const [kept] = await tx.db
      .select({ sha256: fieldPhoto.sha256 })
      .from(fieldPhoto)
      .where(and(eq(fieldPhoto.id, photo), eq(fieldPhoto.personId, who.id)));
    if (!kept) refuse('not-ready', 'The photo itself did not come; take it again.', 'photo');
    const taken = await namesAttached(tx, 'order', orderId);
    const file = { subject: 'order', subjectId: orderId, sha256: kept.sha256, personId: who.id } as const;
    await attachIn(tx, told, { ...file, name: freeName(taken, name) }, now);
    if (signs) await tx.db.update(fieldPhoto).set({ signsId: orderId }).where(eq(fieldPhoto.id, photo));
  });
}

/** A photo of this phone among the files of its order. Refused: it did not come. */
async function attachedPhoto(db: Db, who: Person, orderId: OrderId, photo: string): Promise<AttachmentId> {
  const [kept] = await db
    .select({ id: attachment.id })
    .from(fieldPhoto)
    .innerJoin(
      attachment,
      and(
        ...[eq(attachment.sha256, fieldPhoto.sha256), eq(attachment.subject, 'order')],
        eq(attachment.subjectId, orderId),
      ),
    )
    .where(and(eq(fieldPhoto.id, photo), eq(fieldPhoto.personId, who.id)))
    .limit(1);
  return kept?.id ?? refuse('not-ready', 'The photo of the receipt did not come; take it again.', 'receipt');
}

async function addCostWith(doing: Doing, { kind: _, orderId, receipt, ...body }: Of<'cost'>): Promise<void> {
  const { database, write, who, key, now } = doing;
  const receiptId = receipt === null ? body.receiptId : await attachedPhoto(database.db, who, orderId, receipt);
  await addCostTo(database, write, who, orderId, { requestKey: key, ...body, receiptId }, now);
}

/** What is left of an order goes on as another: ready for the dispatcher, or taken on oneself for later that day. */
async function leaveRest({ write, who, key, at, now }: Doing, body: Of<'rest'>): Promise<void> {
  const { orderId, lineIds, reason, wishedOn, parts, own } = body;
  await write(async (tx) => {
    await mustHaveGone(tx, who, orderId);
    const id = await followUpIn(tx, who.id, orderId, { requestKey: key, lineIds, reason, parts, wishedOn }, now);
    if (!own) return;
    const plan = { technicianId: who.id, technician: who.name, date: localDateAt(who.zone, at), quiet: true } as const;
    // The act of the phone is done once, and these with it.
    for (const act of [
      { kind: 'planned', ...plan, text: 'later today' },
      { kind: 'sent', quiet: true },
    ] as const)
      await recordActIn(tx, id, { at: now, act, requestKey: randomUUID(), who: who.id }, now);
  });
}

type CarriesOut = { readonly [K in Kind]: (doing: Doing, body: Of<K>) => Promise<unknown> };

const CARRIES_OUT: CarriesOut = {
  order: actOnOrder,
  part: ({ database, write, who, key, now }, { orderId, kind: _, ...body }) =>
    useOn(database, write, who, orderId, { requestKey: key, ...body }, now),
  need: ({ database, write, who, now }, { orderId, kind: _, ...body }) =>
    needMoreOf(database, write, who, orderId, body, now),
  time: ({ database, write, who, key, now }, { entry, personId }) =>
    addEntry(database, write, who, { requestKey: key, personId: personId ?? who.id, ...entry }, now),
  cost: addCostWith,
  photo: attachPhoto,
  reading: ({ write, who, at, now }, { meterId, value, lowerMeans }) =>
    write((tx, told) => readMeterIn(tx, told, who, meterId, { at, value, lowerMeans }, now)),
  rest: leaveRest,
  answer: ({ write, who, at }, said) => write((tx, told) => answerIn(tx, told, who, said, at)),
  late: ({ write, who, at, now }, said) => write((tx, told) => sayLateIn(tx, told, who, said, at, now)),
  'handed over': ({ database, write, who, key, now }, { kind: _, ...body }) =>
    handOverFromVan(database, write, who, { requestKey: key, ...body }, now),
  counted: ({ write, who, key, at, now }, { kind: _, ...found }) => countInVan(write, who, found, { key, at, now }),
  'position allowed': ({ write, who, at, now }, { allowed }) =>
    write((tx, told) => allowPosition(tx, told, who, allowed, { at, now })),
  'was at': ({ write, who, at }, said) => write((tx) => keepPosition(tx, who, said, at)),
  machine: ({ write, who, key, now }, body) =>
    write(async (tx) => {
      await mustHaveGone(tx, who, body.orderId);
      await addMachine(tx, who, body, { key, now });
    }),
  swap: ({ database, write, who, at, now }, body) =>
    orTaken(database.db, body.fresh ?? { tag: '', serial: '' }, () =>
      write(async (tx, told) => {
        await mustHaveGone(tx, who, body.orderId);
        await swapOnSite(tx, { who, at, now, told }, body);
      }),
    ),
  'to invoice': ({ write, who, key, at }, { orderId }) =>
    write(async (tx, told) => {
      await mustHaveGone(tx, who, orderId);
      await leaveToInvoice(tx, told, orderId, { who, key, at });
    }),
  'asked for': ({ write, who, key, at }, { kind: _, ...wanted }) =>
    write((tx, told) => askForVan(tx, told, who, wanted, { key, at })),
  received: ({ write, who, at }, { actId }) => write((tx, told) => receiveIn(tx, told, who, actId, at)),
  'handed in': ({ write, who, now }, { week }) =>
    actOnWeek(write, who, { person: who.id, week }, { act: 'hand in', reason: '' }, now),
  absent: ({ write, who, key }, { absence }) =>
    addAbsenceOf(write, who, { requestKey: key, personId: who.id, ...absence }),
};

/** Screens that show what an act changes fetch again, as after the same at a desk. */
export const TOUCHES: Readonly<Record<Kind, AnyContract>> = {
  order: recordAct,
  part: usePart,
  need: setNeed,
  time: addEntryContract,
  cost: addCost,
  photo: addFile,
  reading: addReading,
  rest: followUp,
  answer: moveAppointment,
  late: moveAppointment,
  'handed over': transferStock,
  counted: countPart,
  machine: addLine,
  swap: swapAsset,
  'to invoice': takeCard,
  'asked for': transferStock,
  received: transferStock,
  'position allowed': moveAppointment,
  'was at': moveAppointment,
  'handed in': actOnSheet,
  absent: addAbsence,
};

/** Carries out an act of a phone. Refused: what the same at a desk refuses, and what phones do not do. */
export async function carryOut<K extends Kind>(doing: Doing, body: Of<K>): Promise<void> {
  await CARRIES_OUT[body.kind](doing, body);
}
