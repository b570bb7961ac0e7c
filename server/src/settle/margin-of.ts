// The margin of one agreement in depth: by month, element, machine and class, and what a renewal is priced from. Worked out on a thread.
import { and, asc, eq, gte, inArray } from 'drizzle-orm';
import type { MarginPage, MarginSums } from '#api/margins.ts';
import type { AgreementId, AssetId } from '#core/ids.ts';
import type { BilledPeriod } from '#core/agreements/index.ts';
import { earnedIn, medianOf } from '#core/settle/index.ts';
import { shareEvenly } from '#core/share-out.ts';
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
import { creditedIn, NOTHING, periodsOf, plus, type Credited } from './margin-sums.ts';

const MONTHS_SHOWN = 18;
/** Years that a forecast learns from, at most. */
const YEARS_BACK = 3;
const YEAR_DAYS = 365;

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

const minorOf = (credited: readonly Credited[]): number => credited.reduce((sum, c) => sum + c.minor, 0);

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
  const credited = await creditedIn(db, [id], { from: since, to: today });
  const earned = earnedIn(periods, since, today) + minorOf(credited);
  const ids = [...new Set(reach.flatMap((l) => l.assetIds))];
  const machines = await machinesOf(db, ids, shown, earned);
  const repairs = costByOrder(charges.filter((c) => c.kind === 'repair'));
  const years = Math.max(0, daysBetween(learned, today)) / YEAR_DAYS;
  const planned = charges.filter((c) => c.kind !== 'repair').reduce((sum, c) => sum + c.cost, 0);
  const until = row.termTo !== null && row.termTo < today ? row.termTo : addDays(today, YEAR_DAYS - 1);
  return {
    ...{ id, number: row.number, name: row.name, customer: payer as MarginPage['customer'], currency: row.currency },
    ...{
      termTo: row.termTo,
      months: monthsOf(periods, shown, credited, since, today),
      machines,
      classes: classesOf(machines),
    },
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
  credited: readonly Credited[],
  since: LocalDate,
  today: LocalDate,
): MarginPage['months'] {
  const months: MarginPage['months'] = [];
  for (let begin = `${since.slice(0, 8)}01` as LocalDate; begin <= today; begin = addMonths(begin, 1)) {
    const end = addDays(addMonths(begin, 1), -1);
    const own = charges.filter((c) => c.doneOn >= begin && c.doneOn <= end);
    const given = minorOf(credited.filter((c) => c.on >= begin && c.on <= end));
    const earned = earnedIn(periods, begin, end < today ? end : today) + given;
    months.push({ month: begin.slice(0, 7), ...sumUp(own, earned) });
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
  const shares = shareEvenly(earned, rows.length);
  return rows
    .map((r, i) => {
      const own = charges.filter((c) => c.assetId === r.id);
      return { ...r, orders: new Set(own.map((c) => c.orderId)).size, ...sumUp(own, shares[i] ?? 0) };
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
