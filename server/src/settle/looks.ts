// Finished orders as they are looked through before they are billed: worked out beside requests whenever what they come to may be another.
import { and, asc, desc, eq, gt, gte, inArray, isNull, lt, ne } from 'drizzle-orm';
import { orderNumber } from '#api/shapes.ts';
import type { Considered } from '#core/entitlement/index.ts';
import type { CustomerId, OrderId } from '#core/ids.ts';
import { withoutRate } from '#core/labour/index.ts';
import type { Currency } from '#core/money.ts';
import {
  correctedCharges,
  oddOf,
  settledTotalOf,
  type Correction,
  type Oddity,
  type SettledCharge,
  type SettledTotals,
} from '#core/settle/index.ts';
import { addDays, localDateAt, startOfDay, type LocalDate, type Zone } from '#core/time/index.ts';
import { agreement } from '../agreements/tables.ts';
import { asset } from '../assets/tables.ts';
import { customer } from '../customers/tables.ts';
import { allowanceState } from '../entitlement/index.ts';
import { allowance, allowanceDraw } from '../entitlement/tables.ts';
import { workOrder } from '../orders/tables.ts';
import { bulkInsert, type Database, type Db, type Tx } from '../platform/database.ts';
import { announce } from '../platform/live.ts';
import { whenOrders } from '../platform/order-life.ts';
import { refuse } from '../platform/refuse.ts';
import { contentOf } from '../platform/request-key.ts';
import { settleSettings } from './billing-settings.ts';
import { chargedOf, rateOfCharge, type Charged, type Taxes } from './charging.ts';
import {
  chargeCorrection,
  chargePayer,
  customerBilling,
  orderApproval,
  orderLook,
  orderMark,
} from './document-tables.ts';
import { taxesOf } from './taxes.ts';

/** A finished order with everything that is judged before it is billed. */
export type Looked = {
  readonly charged: Charged;
  readonly charges: readonly SettledCharge[];
  readonly corrections: readonly (typeof chargeCorrection.$inferSelect)[];
  readonly total: SettledTotals;
  readonly doneOn: LocalDate;
  readonly currency: Currency;
  readonly odd: readonly Oddity[];
  readonly like: string;
  /** Of everything that was charged: another one, and it comes to something else. */
  readonly digest: string;
  readonly state: (typeof orderLook.$inferSelect)['state'];
};

/** Leaves a note that they be looked at anew, as far as they are finished. */
export async function markOrders(tx: Tx, ids: readonly OrderId[]): Promise<void> {
  if (ids.length === 0) return;
  const finished = await tx.db
    .select({ id: workOrder.id })
    .from(workOrder)
    .where(and(inArray(workOrder.id, [...ids]), inArray(workOrder.stage, ['done', 'settled'])))
    .orderBy(asc(workOrder.id));
  await bulkInsert(
    tx.connection,
    'order_mark',
    ['order_id', 'marks'],
    finished.map(({ id }) => [id, 1]),
    'ON DUPLICATE KEY UPDATE marks = marks + 1',
  );
}

/** What was approved stays as it was approved: that is taken back before its cover is decided again. */
async function mustNotBeApproved(tx: Tx, id: OrderId): Promise<void> {
  const [row] = await tx.db
    .select({ id: orderApproval.orderId })
    .from(orderApproval)
    .where(eq(orderApproval.orderId, id));
  if (row) refuse('conflict', `What ${orderNumber(id)} comes to is approved; take that back first, under Settle.`);
}

export const lookingAgain = (): void => whenOrders({ charged: markOrders, decidedAgain: mustNotBeApproved });

const asCorrection = (row: typeof chargeCorrection.$inferSelect): Correction => ({
  ...{ lineId: row.lineId, element: row.element, reason: row.reason },
  ...(row.kind === 'goodwill'
    ? { kind: 'goodwill', off: row.percent === null ? { minor: row.minor ?? 0 } : { percent: row.percent } }
    : { kind: 'payers', payers: row.payers ?? [] }),
});

/** A correction that cannot be made any more, for its charges are gone, is left out. */
function settledBy(charged: Charged, corrections: Looked['corrections']): readonly SettledCharge[] {
  let kept: Correction[] = [];
  const own = charged.order.customerId;
  for (const row of corrections) {
    const next = [...kept, asCorrection(row)];
    if (correctedCharges(charged.charges, next, own).ok) kept = next;
  }
  const done = correctedCharges(charged.charges, kept, own);
  if (!done.ok) throw new Error('charges that nobody corrected stand');
  return done.value;
}

const LIKE_AT_MOST = 30;

/** Costs of like work done before, by kind and class. */
async function costsOfLike(db: Db, likes: readonly string[], ids: readonly OrderId[]): Promise<Map<string, number[]>> {
  const all = await Promise.all(
    [...new Set(likes)].map(async (like) => {
      const rows = await db
        .select({ id: orderLook.orderId, cost: orderLook.cost })
        .from(orderLook)
        .where(and(eq(orderLook.like, like), gt(orderLook.cost, 0)))
        .orderBy(desc(orderLook.doneOn), desc(orderLook.cost))
        .limit(LIKE_AT_MOST + ids.length);
      const own = new Set(ids);
      const others = rows.filter((r) => !own.has(r.id)).slice(0, LIKE_AT_MOST);
      return [like, others.map((r) => r.cost)] as const;
    }),
  );
  return new Map(all);
}

/** Of the counted rights that orders drew on, the share that is left in the period of the draw, in percent; the least of each order. */
async function leftOfCover(db: Db, ids: readonly OrderId[]): Promise<Map<OrderId, number>> {
  const drawn = await db
    .selectDistinct({
      ...{ orderId: allowanceDraw.orderId, on: allowanceDraw.drawnOn, rightId: allowance.id },
      ...{ id: agreement.id, termFrom: agreement.termFrom, termTo: agreement.termTo },
    })
    .from(allowanceDraw)
    .innerJoin(allowance, eq(allowance.id, allowanceDraw.allowanceId))
    .innerJoin(agreement, eq(agreement.id, allowance.agreementId))
    .where(and(inArray(allowanceDraw.orderId, [...ids]), isNull(allowanceDraw.returnedAt)));
  const states = new Map<string, ReturnType<typeof allowanceState>>();
  const least = new Map<OrderId, number>();
  for (const { orderId, on, rightId, ...row } of drawn) {
    const key = `${row.id} ${on}`;
    const asked = states.get(key) ?? allowanceState(db, row, on);
    states.set(key, asked);
    const right = (await asked).find((r) => r.id === rightId);
    if (!right || right.granted === 0) continue;
    const left = Math.max(0, Math.floor((100 * (right.granted - right.drawn)) / right.granted));
    least.set(orderId, Math.min(left, least.get(orderId) ?? 100));
  }
  return least;
}

/** A cover that reached the machine and was refused for what kind of work it was, its cause or a part. */
const LEAVES_OUT = /not included|does not bear|excluded|left out/;
export const leavesOut = ({ taken, reason }: Considered): boolean => !taken && LEAVES_OUT.test(reason);
const isExcluded = ({ lines, charges }: Charged): boolean =>
  lines.some(
    (l) =>
      charges.some((c) => c.lineId === l.id && c.pay > 0 && c.element !== 'other') &&
      (l.verdict?.verdict.considered.some(leavesOut) ?? false),
  );

const isWithoutTax = (charged: Charged, taxes: Taxes): boolean => {
  const rateOf = rateOfCharge(taxes, charged);
  return charged.charges.some((c) => rateOf(c) === null);
};

type Standing = { readonly wants: boolean; readonly over: boolean };
async function payersStand(db: Db, ids: readonly CustomerId[]): Promise<Map<CustomerId, Standing>> {
  const rows = await db
    .select({ id: customer.id, over: customer.overSince, wants: customerBilling.needsReference })
    .from(customer)
    .leftJoin(customerBilling, eq(customerBilling.customerId, customer.id))
    .where(inArray(customer.id, [...ids]));
  return new Map(rows.map((r) => [r.id, { wants: r.wants === true, over: r.over !== null }]));
}

async function likeOf(db: Db, all: readonly Charged[]): Promise<Map<OrderId, string>> {
  const machines = all.flatMap((c) => c.lines.find((l) => l.assetId !== null)?.assetId ?? []);
  const classes =
    machines.length === 0
      ? []
      : await db.select({ id: asset.id, classId: asset.classId }).from(asset).where(inArray(asset.id, machines));
  const classOf = new Map(classes.map((c) => [c.id, c.classId]));
  return new Map(
    all.map(({ order, lines }) => {
      const machine = lines.find((l) => l.assetId !== null)?.assetId;
      return [order.id, `${order.kind} ${machine ? (classOf.get(machine) ?? 0) : 0}`];
    }),
  );
}

/** What was approved of them, and whether anything of it waits to be billed. */
async function approvalsOf(db: Db, ids: readonly OrderId[]) {
  const [approved, open] = await Promise.all([
    db
      .select()
      .from(orderApproval)
      .where(inArray(orderApproval.orderId, [...ids])),
    db
      .selectDistinct({ id: chargePayer.orderId })
      .from(chargePayer)
      .where(and(inArray(chargePayer.orderId, [...ids]), eq(chargePayer.state, 'open'))),
  ]);
  const isOpen = new Set(open.map((o) => o.id));
  return new Map(
    approved.map((a) => [
      a.orderId,
      {
        ...a,
        said: a.state === 'second' ? a.state : isOpen.has(a.orderId) ? ('approved' as const) : ('settled' as const),
      },
    ]),
  );
}

const digestOf = (charges: readonly SettledCharge[]): string =>
  contentOf({ charges: charges.map(({ reasons: _, ...charge }) => charge) });

/** Orders that are not finished are left out. As many questions for many as for one. */
export async function lookAt(db: Db, ids: readonly OrderId[]): Promise<Looked[]> {
  const all = (await chargedOf(db, ids)).filter((c) => c.order.doneAt !== null && c.order.stage !== 'called off');
  if (all.length === 0) return [];
  const among = all.map((c) => c.order.id);
  const [taxes, corrections, approvals, payers, likes, left] = await Promise.all([
    taxesOf(db),
    db
      .select()
      .from(chargeCorrection)
      .where(inArray(chargeCorrection.orderId, among))
      .orderBy(asc(chargeCorrection.id)),
    approvalsOf(db, among),
    payersStand(
      db,
      all.map((c) => c.order.customerId),
    ),
    likeOf(db, all),
    leftOfCover(db, among),
  ]);
  const like = await costsOfLike(db, [...likes.values()], among);
  return all.map((charged): Looked => {
    const { order, card, done } = charged;
    const own = corrections.filter((c) => c.orderId === order.id);
    const charges = settledBy(charged, own);
    const total = settledTotalOf(charges);
    const payer = payers.get(order.customerId);
    const approval = approvals.get(order.id);
    const digest = digestOf(charges);
    const kind = likes.get(order.id) ?? '';
    return {
      ...{ charged, charges, corrections: own, total, digest, like: kind },
      doneOn: localDateAt(order.zone, order.doneAt ?? (0 as never)),
      currency: card?.currency ?? ('EUR' as Currency),
      state: approval?.said ?? 'to look at',
      odd: oddOf({
        minutes: done.worked.reduce((sum, w) => sum + w.minutes, 0),
        withoutRate: card !== null && withoutRate(done.worked, card).length > 0,
        ...{ cost: total.cost, like: like.get(kind) ?? [], leftPercent: left.get(order.id) ?? null },
        ...{ excluded: isExcluded(charged), wantsReference: payer?.wants ?? false },
        ...{ reference: order.customerReference, overTerms: payer?.over ?? false },
        ...{ withoutTax: isWithoutTax(charged, taxes), corrected: own.length > 0 },
        changedSince: approval !== undefined && approval.digest !== digest,
      }),
    };
  });
}

const COLUMNS = [
  ...['order_id', 'customer_id', 'done_on', 'state', 'currency', 'cost', 'list', 'pay', 'odd', 'is_plain', 'like'],
  'digest',
];
const OVER = `ON DUPLICATE KEY UPDATE ${COLUMNS.map((c) => `\`${c}\` = VALUES(\`${c}\`)`).join(', ')}`;

/** Keeps what was looked at, over what was kept before. */
export const keepLooks = async (tx: Tx, looks: readonly Looked[]): Promise<void> =>
  void (await bulkInsert(
    tx.connection,
    'order_look',
    COLUMNS,
    looks.map((l) => [
      ...[l.charged.order.id, l.charged.order.customerId, l.doneOn, l.state, l.currency],
      ...[l.total.cost, l.total.list, l.total.pay, JSON.stringify(l.odd), l.odd.length === 0, l.like, l.digest],
    ]),
    OVER,
  ));

/** Few, for it is worked out on the loop. */
const AT_ONCE = 25;

/** Looks at some of those that are marked; gives how many there were. Others may do the same beside it. */
export async function lookAtMarked(database: Pick<Database, 'transact'>): Promise<number> {
  return database.transact(async (tx) => {
    const { billsFrom } = await settleSettings(tx.db);
    const marked = await tx.db
      .select()
      .from(orderMark)
      .orderBy(asc(orderMark.orderId))
      .limit(AT_ONCE)
      .for('update', { skipLocked: true });
    if (marked.length === 0) return 0;
    const looks = await lookAt(
      tx.db,
      marked.map((m) => m.orderId),
    );
    const wanted = looks.filter((l) => billsFrom !== null && l.doneOn >= billsFrom);
    await keepLooks(tx, wanted);
    await tx.db.delete(orderMark).where(
      inArray(
        orderMark.orderId,
        marked.map((m) => m.orderId),
      ),
    );
    if (wanted.length > 0) await announce(tx, { touches: ['settle'] });
    return marked.length;
  });
}

/** Leaves a note that all of a customer's finished work that nobody approved yet be looked at anew. */
export async function markUnapproved(tx: Tx, id: CustomerId): Promise<void> {
  const open = await tx.db
    .select({ id: orderLook.orderId })
    .from(orderLook)
    .where(and(eq(orderLook.customerId, id), eq(orderLook.state, 'to look at')));
  for (let i = 0; i < open.length; i += MARKED_AT_ONCE)
    await markOrders(
      tx,
      open.slice(i, i + MARKED_AT_ONCE).map((o) => o.id),
    );
}

const MARKED_AT_ONCE = 1000;

/** Marks everything that was done from a day on: it is billed here from then. */
export async function markDoneSince(tx: Tx, from: LocalDate): Promise<void> {
  let after = 0 as OrderId;
  for (;;) {
    const rows = await tx.db
      .select({ id: workOrder.id })
      .from(workOrder)
      .where(
        and(
          gt(workOrder.id, after),
          inArray(workOrder.stage, ['done', 'settled']),
          // A place's day may have begun before that of UTC; the day itself is looked at by the place's.
          gte(workOrder.doneAt, startOfDay('UTC' as Zone, addDays(from, -1))),
        ),
      )
      .orderBy(asc(workOrder.id))
      .limit(MARKED_AT_ONCE);
    await markOrders(
      tx,
      rows.map((r) => r.id),
    );
    if (rows.length < MARKED_AT_ONCE) return;
    after = rows.at(-1)?.id as OrderId;
  }
}

/** What was done before the house bills here is nobody’s to look at any more. */
export const forgetBefore = async (tx: Tx, from: LocalDate): Promise<void> =>
  void (await tx.db.delete(orderLook).where(and(lt(orderLook.doneOn, from), ne(orderLook.state, 'settled'))));
