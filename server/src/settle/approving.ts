// Approving what finished orders come to: their charges stand from then on as they were looked at, until nothing of them is billed.
import { and, asc, eq, inArray, ne } from 'drizzle-orm';
import type { BodyOf } from '#api/contract.ts';
import type { addCorrection, approveOrders } from '#api/billing.ts';
import { orderNumber } from '#api/shapes.ts';
import type { ChargeId, CorrectionId, OrderId } from '#core/ids.ts';
import { MANAGERS, type Role } from '#core/people.ts';
import type { Refusal } from '#core/refusal.ts';
import {
  approveOrder,
  approveSecond,
  correctedCharges,
  type Correction,
  type Derivation,
  type SettledCharge,
} from '#core/settle/index.ts';
import type { Instant } from '#core/time/index.ts';
import { workOrder } from '../orders/tables.ts';
import { instantText } from '../platform/columns.ts';
import { bulkInsert, insertedIds, type Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { accept, refuse } from '../platform/refuse.ts';
import { contentOf, mustBeSame } from '../platform/request-key.ts';
import type { Told, Write } from '../platform/writing.ts';
import { settleSettings } from './billing-settings.ts';
import { bearsOf, bookCentres, takeCentresBack } from './centres.ts';
import { comingNamed, kilometresOf, rateOfCharge, type Charged } from './charging.ts';
import { drawClaimsUp, dropClaims } from './claims.ts';
import { chargeNamer, customerNames } from './names.ts';
import {
  chargeCorrection,
  chargePayer,
  LONGEST_BEARER,
  orderApproval,
  orderCharge,
  orderLook,
} from './document-tables.ts';
import { keepLooks, lookAt, markOrders, type Looked } from './looks.ts';
import { settleFinished } from './settled.ts';
import { taxesOf } from './taxes.ts';

const CHARGE_COLUMNS = [
  ...['order_id', 'order_line_id', 'asset_id', 'agreement_id', 'element', 'text', 'quantity', 'unit', 'cost', 'list'],
  ...['borne', 'discount', 'goodwill', 'pay', 'bearer', 'bears', 'tax_category', 'tax_hundredths', 'derivation'],
];

/** How much of what: billed minutes, thousandths of a part's unit, or one. Units by UN/ECE Recommendation 20. */
const UNITS: Readonly<Record<string, string>> = {
  litre: 'LTR',
  metre: 'MTR',
  kilogram: 'KGM',
  kg: 'KGM',
  l: 'LTR',
  m: 'MTR',
};
function amountOf(charge: SettledCharge, { used, done }: Charged): { quantity: number; unit: string } {
  const { labour, what, of } = charge;
  if (labour) return { quantity: labour.billed * 1000, unit: 'MIN' };
  if (what === 'kilometres') return { quantity: (kilometresOf(charge, done.driven) ?? 1) * 1000, unit: 'KMT' };
  const use = what === 'part' || what === 'consumable' ? used.find((u) => u.used.id === of) : undefined;
  if (!use) return { quantity: 1000, unit: 'C62' };
  return { quantity: use.used.thousandths, unit: UNITS[use.part.unit] ?? 'C62' };
}

function derivationOf(charge: SettledCharge, charged: Charged): Derivation {
  const { what, labour, of, by, reasons } = charge;
  const coming = comingNamed(charge, charged);
  return { what, labour, of, by, reasons, ...(coming && { coming }) };
}

/** Orders under lock, in the order of their numbers, so that two who approve the same wait for each other. */
const hold = (tx: Tx, ids: readonly OrderId[]) =>
  tx.db
    .select({ id: workOrder.id })
    .from(workOrder)
    .where(inArray(workOrder.id, [...ids]))
    .orderBy(asc(workOrder.id))
    .for('update');

type Asked = BodyOf<typeof approveOrders>['orders'];
export type Approved = { readonly approved: number; readonly left: { orderId: OrderId; reason: string }[] };

/** Why it is not approved now; null: nothing speaks against it. */
function whyNot(look: Looked | undefined, digest: string | null): string | null {
  if (!look) return 'it is not done.';
  if (look.state !== 'to look at') return 'it was approved already.';
  if (digest !== null && look.digest !== digest) return 'it comes to something else by now; look at it again.';
  return null;
}

const saidBy = (refusals: readonly Refusal[]): string => refusals.map((r) => r.message).join(' ');

/**
 * Approves those that may be, each as it was seen (`digest` null: as it is). The others are named with their reasons and stay as they
 * are. Twice at once, the second finds it approved.
 */
export async function approveIn(tx: Tx, told: Told, who: Person, asked: Asked, now: Instant): Promise<Approved> {
  const ids = asked.map((a) => a.id);
  await hold(tx, ids);
  const [looks, { secondAbove }, taxes] = await Promise.all([
    lookAt(tx.db, ids),
    settleSettings(tx.db),
    taxesOf(tx.db),
  ]);
  const lookOf = new Map(looks.map((l) => [l.charged.order.id, l]));
  const left: Approved['left'] = [];
  const stand: { look: Looked; state: 'approved' | 'second' }[] = [];
  const anew: OrderId[] = [];
  for (const { id, digest } of asked) {
    const look = lookOf.get(id);
    const why = whyNot(look, digest);
    const judged = look && why === null ? approveOrder(look.odd, look.total.goodwill, secondAbove) : null;
    if (judged?.ok && look) stand.push({ look, state: judged.value });
    else left.push({ orderId: id, reason: why ?? (judged && !judged.ok ? saidBy(judged.refusals) : '') });
    if (why !== null) anew.push(id);
  }
  await markOrders(tx, anew);
  await keepApprovals(tx, stand, who, now);
  await keepCharges(tx, stand, taxes);
  await keepLooks(
    tx,
    stand.map(({ look, state }) => ({ ...look, state })),
  );
  const approved = stand.filter((s) => s.state === 'approved').map((s) => s.look.charged.order.id);
  await bookCentres(tx, approved, who, now);
  await drawClaimsUp(tx, approved);
  await settleFinished(tx, approved, who.id, now);
  for (const { look, state } of stand)
    told({
      subject: 'order',
      id: look.charged.order.id,
      text: state === 'second' ? 'approved once; a second person looks' : 'approved to be billed',
    });
  return { approved: stand.length, left };
}

type Stand = readonly { readonly look: Looked; readonly state: 'approved' | 'second' }[];

const keepApprovals = async (tx: Tx, stand: Stand, who: Person, now: Instant): Promise<void> =>
  void (await bulkInsert(
    tx.connection,
    'order_approval',
    [
      ...['order_id', 'state', 'digest', 'currency', 'cost', 'list', 'borne', 'discount', 'goodwill', 'pay'],
      ...['person_id', 'at'],
    ],
    stand.map(({ look: { charged, digest, currency, total }, state }) => [
      ...[charged.order.id, state, digest, currency, total.cost, total.list, total.borne, total.discount],
      ...[total.goodwill, total.pay, who.id, instantText(now)],
    ]),
  ));

async function keepCharges(tx: Tx, stand: Stand, taxes: Awaited<ReturnType<typeof taxesOf>>): Promise<void> {
  const nameOf = await chargeNamer(tx.db);
  const rows = stand.flatMap(({ look }) => {
    const { charged } = look;
    const rateOf = rateOfCharge(taxes, charged);
    const assetOf = new Map(charged.lines.map((l) => [l.id, l.assetId]));
    return look.charges.map((charge) => {
      const [amount, rate] = [amountOf(charge, charged), rateOf(charge)];
      const row = [
        ...[charged.order.id, charge.lineId, assetOf.get(charge.lineId) ?? null, charged.order.agreementId],
        ...[charge.element, nameOf(charge, charged), amount.quantity, amount.unit],
        ...[charge.cost, charge.list, charge.borne, charge.discount, charge.goodwill, charge.pay],
        charge.by?.slice(0, LONGEST_BEARER) ?? null,
        bearsOf(charge, charged),
        ...[rate?.category ?? null, rate?.hundredths ?? null, JSON.stringify(derivationOf(charge, charged))],
      ];
      return { look, payers: charge.payers, row };
    });
  });
  const first = await bulkInsert(
    tx.connection,
    'order_charge',
    CHARGE_COLUMNS,
    rows.map((r) => r.row),
  );
  const ids = await insertedIds(tx.connection, first, rows.length);
  await bulkInsert(
    tx.connection,
    'charge_payer',
    ['charge_id', 'customer_id', 'order_id', 'done_on', 'minor', 'state'],
    rows.flatMap(({ look, payers }, i) =>
      payersToBill(payers, look.charged).map((p) => [
        ...[ids[i] as ChargeId, p.customerId, look.charged.order.id, look.doneOn, p.minor, 'open'],
      ]),
    ),
  );
}

/** What is covered in full is the customer's too, at nothing: they may want to see it. Of internal work nobody pays anything. */
function payersToBill(payers: SettledCharge['payers'], { order }: Charged): SettledCharge['payers'] {
  if (order.internal) return [];
  return payers.length > 0 ? payers : [{ customerId: order.customerId, minor: 0 }];
}

/** A second person has looked. Refused: the same, and one that waits for nobody. */
export const approveSecondIn = (write: Write, who: Person, id: OrderId, now: Instant): Promise<void> =>
  write(async (tx, told) => {
    await hold(tx, [id]);
    const [row] = await tx.db.select().from(orderApproval).where(eq(orderApproval.orderId, id)).for('update');
    if (row?.state !== 'second') refuse('wrong-stage', 'It does not wait for a second person.');
    accept(approveSecond(row.personId, who.id));
    await tx.db
      .update(orderApproval)
      .set({ state: 'approved', secondId: who.id, secondAt: now })
      .where(eq(orderApproval.orderId, id));
    await tx.db.update(orderLook).set({ state: 'approved' }).where(eq(orderLook.orderId, id));
    await bookCentres(tx, [id], who, now);
    await drawClaimsUp(tx, [id]);
    await settleFinished(tx, [id], who.id, now);
    told({ subject: 'order', id, text: 'approved by a second person' });
  });

/** Takes an approval back. Refused: once anything of it is on a document, or the maker was asked for what its warranty bears. */
export const withdrawIn = (write: Write, id: OrderId, who: Person, now: Instant): Promise<void> =>
  write(async (tx, told) => {
    await hold(tx, [id]);
    const [row] = await tx.db.select().from(orderApproval).where(eq(orderApproval.orderId, id)).for('update');
    if (!row) refuse('wrong-stage', `${orderNumber(id)} is not approved.`);
    const [billed] = await tx.db
      .select({ id: chargePayer.chargeId })
      .from(chargePayer)
      .where(and(eq(chargePayer.orderId, id), ne(chargePayer.state, 'open')))
      .limit(1);
    if (billed) refuse('conflict', 'Something of it is on a document; credit that first, to be billed again.');
    await dropClaims(tx, id);
    await takeCentresBack(tx, id, who, now);
    await tx.db.delete(chargePayer).where(eq(chargePayer.orderId, id));
    await tx.db.delete(orderCharge).where(eq(orderCharge.orderId, id));
    await tx.db.delete(orderApproval).where(eq(orderApproval.orderId, id));
    await keepLooks(tx, await lookAt(tx.db, [id]));
    told({ subject: 'order', id, text: 'approval taken back' });
  });

type Correcting = BodyOf<typeof addCorrection>;
const asCorrection = ({ lineId, element, reason, goodwill, payers }: Omit<Correcting, 'requestKey'>): Correction =>
  goodwill
    ? { kind: 'goodwill', lineId, element, reason, off: goodwill }
    : { kind: 'payers', lineId, element, reason, payers };

async function looked(tx: Tx, id: OrderId): Promise<Looked> {
  await hold(tx, [id]);
  const [look] = await lookAt(tx.db, [id]);
  if (!look) refuse('wrong-stage', `${orderNumber(id)} is not done.`);
  if (look.state !== 'to look at') refuse('wrong-stage', 'It is approved; take that back first.');
  return look;
}

/** A correction, judged with those before it; gives its id, and for a repeated request key that of the first. Refused: goodwill by whoever may not, payers who are none. */
export const correctIn = (
  write: Write,
  who: Person,
  id: OrderId,
  { requestKey, ...body }: Correcting,
  now: Instant,
): Promise<{ id: CorrectionId }> =>
  write(async (tx, told) => {
    const requestContent = contentOf({ id, ...body });
    await hold(tx, [id]);
    const [sent] = await tx.db.select().from(chargeCorrection).where(eq(chargeCorrection.requestKey, requestKey));
    if (sent) {
      mustBeSame(sent.requestContent, requestContent);
      return { id: sent.id };
    }
    const look = await looked(tx, id);
    if (body.goodwill && !(MANAGERS as readonly Role[]).includes(who.role))
      refuse('not-allowed', 'Goodwill is given by a manager; ask one.', 'goodwill');
    const payers = body.payers.map((p) => p.customerId);
    const known = await customerNames(tx.db, payers);
    if (payers.some((p) => !known.has(p)))
      refuse('not-found', 'That customer does not exist; choose another.', 'payers');
    // After the corrections before it, which stand already.
    const before = look.charges.map((c) => ({ ...c, discount: c.discount + c.goodwill }));
    accept(correctedCharges(before, [asCorrection(body)], look.charged.order.customerId));
    const off = body.goodwill;
    const [made] = await tx.db
      .insert(chargeCorrection)
      .values({
        ...{ orderId: id, lineId: body.lineId as never, element: body.element, reason: body.reason, personId: who.id },
        ...{ at: now, kind: off ? ('goodwill' as const) : ('payers' as const) },
        percent: off && 'percent' in off ? off.percent : null,
        minor: off && 'minor' in off ? off.minor : null,
        ...{ payers: off ? null : body.payers, requestKey, requestContent },
      })
      .$returningId();
    await keepLooks(tx, await lookAt(tx.db, [id]));
    told({ subject: 'order', id, text: `${off ? 'goodwill' : 'other payer'}: ${body.reason}` });
    return { id: made?.id as CorrectionId };
  });

export const removeCorrectionIn = (write: Write, orderId: OrderId, id: CorrectionId): Promise<void> =>
  write(async (tx, told) => {
    await looked(tx, orderId);
    const [gone] = await tx.db
      .delete(chargeCorrection)
      .where(and(eq(chargeCorrection.id, id), eq(chargeCorrection.orderId, orderId)));
    if (gone.affectedRows === 0) refuse('not-found', 'That correction was taken back already.');
    await keepLooks(tx, await lookAt(tx.db, [orderId]));
    told({ subject: 'order', id: orderId, text: 'took a correction back' });
  });
