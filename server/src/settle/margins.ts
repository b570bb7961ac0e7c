// Margins: fees by the day less what was done under them, of all agreements or customers, and of one in depth. Worked out on a thread.
import { and, asc, count, eq, gte, inArray, isNull, lte, or, sql } from 'drizzle-orm';
import type { Asked } from '#api/contract.ts';
import type { listMargins, MarginList, MarginPage, MarginSums } from '#api/margins.ts';
import type { AgreementId, AssetId } from '#core/ids.ts';
import { billedPeriods, type BilledPeriod } from '#core/agreements/index.ts';
import { earnedIn, medianOf } from '#core/settle/index.ts';
import { addDays, addMonths, daysBetween, type LocalDate } from '#core/time/index.ts';
import { agreement } from '../agreements/tables.ts';
import { asset } from '../assets/tables.ts';
import { assetClass } from '../catalogue/tables.ts';
import { customer } from '../customers/tables.ts';
import { reachOf } from '../entitlement/index.ts';
import { workOrder } from '../orders/tables.ts';
import type { Db } from '../platform/database.ts';
import { refuse } from '../platform/refuse.ts';
import { orderCharge, orderLook } from './document-tables.ts';
import { pricedOf } from './fee-facts.ts';

const PAGE = 60;
const AT_ONCE = 200;
const MONTHS_SHOWN = 18;
/** Years that a forecast learns from, at most. */
const YEARS_BACK = 3;
const YEAR_DAYS = 365;

type Row = typeof agreement.$inferSelect;
type Period = { readonly from: LocalDate; readonly to: LocalDate };
const NOTHING: MarginSums = { earned: 0, charged: 0, cost: 0, margin: 0 };

const plus = (a: MarginSums, b: Omit<MarginSums, 'margin'>): MarginSums => {
  const sum = { earned: a.earned + b.earned, charged: a.charged + b.charged, cost: a.cost + b.cost };
  return { ...sum, margin: sum.earned - sum.cost };
};

/** What is billed of agreements, period by period, up to a day. */
async function periodsOf(db: Db, rows: readonly Row[], to: LocalDate): Promise<Map<AgreementId, BilledPeriod[]>> {
  const found = new Map<AgreementId, BilledPeriod[]>();
  for (let i = 0; i < rows.length; i += AT_ONCE) {
    const some = rows.slice(i, i + AT_ONCE);
    const priced = await pricedOf(db, some, to);
    for (const [j, { plan, term, stretches, visits, rests }] of priced.entries())
      found.set((some[j] as Row).id, billedPeriods(plan, term, stretches, term.from, to, visits, rests));
  }
  return found;
}

/** Approved charges of orders done in a period, with what customers pay of them. */
const chargesIn = (db: Db, { from, to }: Period) =>
  db
    .select({
      ...{ agreementId: orderCharge.agreementId, customerId: orderLook.customerId, currency: orderLook.currency },
      ...{ cost: sql<string>`sum(${orderCharge.cost})`, charged: sql<string>`sum(${orderCharge.pay})` },
    })
    .from(orderCharge)
    .innerJoin(orderLook, eq(orderLook.orderId, orderCharge.orderId))
    .where(and(gte(orderLook.doneOn, from), lte(orderLook.doneOn, to)))
    .groupBy(orderCharge.agreementId, orderLook.customerId, orderLook.currency);

type Owner = { readonly id: number; readonly name: string; readonly customer: MarginList['items'][number]['customer'] };
type Sums = Map<string, MarginSums & Owner & { readonly currency: string }>;

/** Everything of a period, by agreement or by customer; work outside agreements is of customers only. */
async function sumsOf(
  db: Db,
  rows: readonly (Row & { payer: string })[],
  { from, to }: Period,
  by: 'agreement' | 'customer',
): Promise<Sums> {
  const sums: Sums = new Map();
  const add = (owner: Owner, currency: string, more: Omit<MarginSums, 'margin'>): void => {
    const key = `${owner.id} ${currency}`;
    sums.set(key, { ...owner, currency, ...plus(sums.get(key) ?? NOTHING, more) });
  };
  const rowOf = new Map(rows.map((r) => [r.id, r]));
  const ownerOf = (row: Row & { payer: string }): Owner =>
    by === 'customer'
      ? { id: row.customerId, name: row.payer, customer: null }
      : { id: row.id, name: `${row.number} ${row.name}`, customer: { id: row.customerId, name: row.payer } };
  const [periods, charges] = [await periodsOf(db, rows, to), await chargesIn(db, { from, to })];
  for (const row of rows)
    add(ownerOf(row), row.currency, { earned: earnedIn(periods.get(row.id) ?? [], from, to), charged: 0, cost: 0 });
  const payers = new Map(rows.map((r) => [r.customerId, r.payer]));
  for (const c of charges) {
    const row = c.agreementId === null ? undefined : rowOf.get(c.agreementId);
    const owner =
      by === 'customer'
        ? { id: c.customerId, name: payers.get(c.customerId) ?? '', customer: null }
        : row && ownerOf(row);
    if (owner) add(owner, c.currency, { earned: 0, charged: Number(c.charged), cost: Number(c.cost) });
  }
  return sums;
}

const agreementsIn = async (db: Db, from: LocalDate, to: LocalDate) =>
  (
    await db
      .select({ row: agreement, payer: customer.name })
      .from(agreement)
      .innerJoin(customer, eq(customer.id, agreement.customerId))
      .where(
        and(
          inArray(agreement.stage, ['in force', 'suspended', 'ended']),
          lte(agreement.termFrom, to),
          or(isNull(agreement.termTo), gte(agreement.termTo, from)),
        ),
      )
      .orderBy(asc(agreement.id))
  ).map(({ row, payer }) => ({ ...row, payer }));

export async function readMargins(db: Db, query: Asked<typeof listMargins>['query']): Promise<MarginList> {
  const { from, to, by = 'agreement' } = query;
  if (to < from) refuse('invalid', 'The period ends before it begins.', 'to');
  const days = daysBetween(from, to) + 1;
  const earlier = { from: addDays(from, -days), to: addDays(from, -1) };
  const rows = await agreementsIn(db, earlier.from, to);
  const [now, before] = [await sumsOf(db, rows, { from, to }, by), await sumsOf(db, rows, earlier, by)];
  const all = [...now.values()]
    .filter((s) => s.earned !== 0 || s.cost !== 0 || s.charged !== 0)
    .sort((a, b) => a.margin - b.margin || a.name.localeCompare(b.name));
  await nameMissing(db, all);
  const totals = new Map<string, MarginSums>();
  for (const s of all) totals.set(s.currency, plus(totals.get(s.currency) ?? NOTHING, s));
  const start = Number(query.after ?? 0);
  const [open] = await db
    .select({ n: count() })
    .from(orderLook)
    .where(
      and(inArray(orderLook.state, ['to look at', 'second']), gte(orderLook.doneOn, from), lte(orderLook.doneOn, to)),
    );
  return {
    items: all
      .slice(start, start + PAGE)
      .map((s) => ({ ...s, before: before.get(`${s.id} ${s.currency}`)?.margin ?? 0 })),
    next: start + PAGE < all.length ? String(start + PAGE) : null,
    sums: [...totals].map(([currency, s]) => ({ currency, ...s })),
    notApproved: open?.n ?? 0,
  };
}

/** Customers without any agreement have a name too. */
async function nameMissing(db: Db, all: { id: number; name: string }[]): Promise<void> {
  const missing = all.filter((s) => s.name === '');
  if (missing.length === 0) return;
  const rows = await db
    .select({ id: customer.id, name: customer.name })
    .from(customer)
    .where(inArray(customer.id, missing.map((s) => s.id) as never[]));
  const names = new Map(rows.map((r) => [r.id as number, r.name]));
  for (const s of missing) s.name = names.get(s.id) ?? '';
}

/** Charges of an agreement's orders since a day, each with its order and machine. */
const chargesOf = (db: Db, id: AgreementId, from: LocalDate) =>
  db
    .select({
      ...{ orderId: orderCharge.orderId, assetId: orderCharge.assetId, element: orderCharge.element },
      ...{ cost: orderCharge.cost, charged: orderCharge.pay, doneOn: orderLook.doneOn, kind: workOrder.kind },
    })
    .from(orderCharge)
    .innerJoin(orderLook, eq(orderLook.orderId, orderCharge.orderId))
    .innerJoin(workOrder, eq(workOrder.id, orderCharge.orderId))
    .where(and(eq(orderCharge.agreementId, id), gte(orderLook.doneOn, from)));
type Charge = Awaited<ReturnType<typeof chargesOf>>[number];

const sumUp = (charges: readonly Charge[], earned: number): MarginSums =>
  charges.reduce(
    (sum, c) => plus(sum, { earned: 0, charged: c.charged, cost: c.cost }),
    plus(NOTHING, { ...NOTHING, earned }),
  );

const costByOrder = (charges: readonly Charge[]): number[] => {
  const costs = new Map<number, number>();
  for (const c of charges) costs.set(c.orderId, (costs.get(c.orderId) ?? 0) + c.cost);
  return [...costs.values()];
};

export async function readMarginOf(db: Db, id: AgreementId, today: LocalDate): Promise<MarginPage> {
  const [row] = await db.select().from(agreement).where(eq(agreement.id, id));
  if (!row || row.stage === 'draft') refuse('not-found', 'That agreement does not exist, or is a draft still.');
  const [[payer], reach, periods] = await Promise.all([
    db.select({ id: customer.id, name: customer.name }).from(customer).where(eq(customer.id, row.customerId)),
    reachOf(db, id, row.customerId),
    periodsOf(db, [row], addDays(today, YEAR_DAYS)).then((all) => all.get(id) ?? []),
  ]);
  const learned = [row.termFrom, addDays(today, -YEARS_BACK * YEAR_DAYS)].sort().at(-1) as LocalDate;
  const charges = await chargesOf(db, id, learned);
  const thisMonth = `${today.slice(0, 8)}01` as LocalDate;
  const since = [addMonths(thisMonth, 1 - MONTHS_SHOWN), row.termFrom].sort().at(-1) as LocalDate;
  const shown = charges.filter((c) => c.doneOn >= since);
  const earned = earnedIn(periods, since, today);
  const ids = [...new Set(reach.flatMap((l) => l.assetIds))];
  const machines = await machinesOf(db, ids, shown, earned);
  const repairs = costByOrder(charges.filter((c) => c.kind === 'repair'));
  const years = Math.max(0, daysBetween(learned, today)) / YEAR_DAYS;
  const planned = charges.filter((c) => c.kind !== 'repair').reduce((sum, c) => sum + c.cost, 0);
  const until = row.termTo !== null && row.termTo < today ? row.termTo : addDays(today, YEAR_DAYS - 1);
  return {
    ...{ id, number: row.number, name: row.name, customer: payer as MarginPage['customer'], currency: row.currency },
    ...{ termTo: row.termTo, months: monthsOf(periods, shown, since, today), machines, classes: classesOf(machines) },
    elements: elementsOf(shown),
    record: {
      ...{ failures: repairs.length, machineYears: ids.length * years, machines: ids.length },
      ...{
        medianCost: repairs.length === 0 ? 0 : medianOf(repairs),
        plannedCost: years === 0 ? 0 : Math.round(planned / years),
      },
    },
    priceNow: earnedIn(periods, today, until),
  };
}

function monthsOf(
  periods: readonly BilledPeriod[],
  charges: readonly Charge[],
  since: LocalDate,
  today: LocalDate,
): MarginPage['months'] {
  const months: MarginPage['months'] = [];
  for (let begin = `${since.slice(0, 8)}01` as LocalDate; begin <= today; begin = addMonths(begin, 1)) {
    const end = addDays(addMonths(begin, 1), -1);
    const own = charges.filter((c) => c.doneOn >= begin && c.doneOn <= end);
    months.push({ month: begin.slice(0, 7), ...sumUp(own, earnedIn(periods, begin, end < today ? end : today)) });
  }
  return months;
}

function elementsOf(charges: readonly Charge[]): MarginPage['elements'] {
  const sums = new Map<Charge['element'], { cost: number; charged: number }>();
  for (const c of charges) {
    const own = sums.get(c.element) ?? { cost: 0, charged: 0 };
    sums.set(c.element, { cost: own.cost + c.cost, charged: own.charged + c.charged });
  }
  return [...sums].map(([element, s]) => ({ element, ...s })).sort((a, b) => b.cost - a.cost);
}

/** Each with an even share of the fees, cents left over to the first ones: together they are the fees. */
async function machinesOf(
  db: Db,
  ids: readonly AssetId[],
  charges: readonly Charge[],
  earned: number,
): Promise<MarginPage['machines']> {
  if (ids.length === 0) return [];
  const rows = await db
    .select({ id: asset.id, tag: asset.tag, model: asset.model, class: assetClass.name })
    .from(asset)
    .innerJoin(assetClass, eq(assetClass.id, asset.classId))
    .where(inArray(asset.id, [...ids]))
    .orderBy(asc(asset.tag));
  const each = Math.floor(earned / rows.length);
  return rows
    .map((r, i) => {
      const own = charges.filter((c) => c.assetId === r.id);
      const share = each + (i < earned - each * rows.length ? 1 : 0);
      return { ...r, orders: new Set(own.map((c) => c.orderId)).size, ...sumUp(own, share) };
    })
    .sort((a, b) => a.margin - b.margin);
}

function classesOf(machines: MarginPage['machines']): MarginPage['classes'] {
  const sums = new Map<string, MarginPage['classes'][number]>();
  for (const m of machines) {
    const own = sums.get(m.class) ?? { name: m.class, machines: 0, ...NOTHING };
    sums.set(m.class, { ...own, machines: own.machines + 1, ...plus(own, m) });
  }
  return [...sums.values()].sort((a, b) => a.margin - b.margin);
}
