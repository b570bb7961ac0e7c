// Margins in a period: fees by the day, less service credits, less what was done, of agreements, customers, classes or machines.
// Worked out on a thread.
import { and, asc, count, eq, gte, inArray, isNull, lte, or, sql } from 'drizzle-orm';
import type { Asked } from '#api/contract.ts';
import type { listMargins, MarginList, MarginsBy, MarginSums } from '#api/margins.ts';
import type { AgreementId, AssetClassId, AssetId, CustomerId } from '#core/ids.ts';
import { earnedIn } from '#core/settle/index.ts';
import { shareEvenly } from '#core/share-out.ts';
import { addDays, daysBetween, type LocalDate } from '#core/time/index.ts';
import { agreement } from '../agreements/tables.ts';
import { asset } from '../assets/tables.ts';
import { assetClass } from '../catalogue/tables.ts';
import { customer } from '../customers/tables.ts';
import { machinesReached, type Machine } from '../entitlement/index.ts';
import type { Db } from '../platform/database.ts';
import { refuse } from '../platform/refuse.ts';
import { orderCharge, orderLook } from './document-tables.ts';
import { creditedIn, NOTHING, periodsOf, plus, type Period, type Row } from './margin-sums.ts';

const PAGE = 60;

type Held = Row & { readonly payer: string };

/** Approved charges of orders done in a period, with what customers pay of them; machine by machine where that is asked. */
async function chargesIn(db: Db, { from, to }: Period, byMachine: boolean) {
  const machine = byMachine ? orderCharge.assetId : sql<AssetId | null>`null`;
  const rows = await db
    .select({
      ...{ agreementId: orderCharge.agreementId, customerId: orderLook.customerId, currency: orderLook.currency },
      ...{ cost: sql<string>`sum(${orderCharge.cost})`, charged: sql<string>`sum(${orderCharge.pay})` },
      assetId: machine,
    })
    .from(orderCharge)
    .innerJoin(orderLook, eq(orderLook.orderId, orderCharge.orderId))
    .where(and(gte(orderLook.doneOn, from), lte(orderLook.doneOn, to)))
    .groupBy(
      ...[orderCharge.agreementId, orderLook.customerId, orderLook.currency],
      ...(byMachine ? [orderCharge.assetId] : []),
    );
  return rows.map((r) => ({ ...r, cost: Number(r.cost), charged: Number(r.charged) }));
}
type ChargeSum = Awaited<ReturnType<typeof chargesIn>>[number];

/** Whose a sum is. The id is that of an agreement, customer, class or machine; 0: of none. */
type Owner = { readonly id: number; readonly name: string; readonly customer: MarginList['items'][number]['customer'] };
type Sums = Map<string, MarginSums & Owner & { readonly currency: string }>;

/** How sums are told apart: whose fees an agreement earns, and whose a charge is; null: it is left out. */
type Division = {
  /** Those who share the fees of an agreement evenly. */
  readonly earners: (row: Held) => readonly Owner[];
  readonly ownerOf: (charge: ChargeSum) => Owner | null;
};

function byAgreement(rows: readonly Held[]): Division {
  const owner = (row: Held): Owner => ({
    ...{ id: row.id, name: `${row.number} ${row.name}`, customer: { id: row.customerId, name: row.payer } },
  });
  const owners = new Map(rows.map((r) => [r.id as number, owner(r)]));
  return {
    earners: (row) => [owner(row)],
    // Work outside agreements is of customers and machines only.
    ownerOf: ({ agreementId }) => owners.get(agreementId ?? 0) ?? null,
  };
}

async function byCustomer(db: Db, rows: readonly Held[], charges: readonly ChargeSum[]): Promise<Division> {
  const names = new Map<CustomerId, string>(rows.map((r) => [r.customerId, r.payer]));
  const missing = [...new Set(charges.map((c) => c.customerId))].filter((id) => !names.has(id));
  if (missing.length > 0)
    for (const r of await db
      .select({ id: customer.id, name: customer.name })
      .from(customer)
      .where(inArray(customer.id, missing)))
      names.set(r.id, r.name);
  const owner = (id: CustomerId): Owner => ({ id, name: names.get(id) ?? '', customer: null });
  return {
    earners: (row) => [owner(row.customerId)],
    ownerOf: ({ customerId }) => owner(customerId),
  };
}

const NO_MACHINE: Owner = { id: 0, name: 'no machine', customer: null };
type Known = Pick<Machine, 'id' | 'tag' | 'model' | 'classId' | 'customerId'>;

/** Machines that work was done on and no agreement reaches any more are known too. */
async function machinesKnown(
  db: Db,
  reached: ReadonlyMap<AgreementId, readonly Machine[]>,
  charges: readonly ChargeSum[],
): Promise<ReadonlyMap<AssetId, Known>> {
  const known = new Map<AssetId, Known>([...reached.values()].flat().map((m) => [m.id, m]));
  const missing = [...new Set(charges.flatMap((c) => c.assetId ?? []))].filter((id) => !known.has(id));
  for (let i = 0; i < missing.length; i += 1000)
    for (const r of await db
      .select({
        ...{ id: asset.id, tag: asset.tag, model: asset.model, classId: asset.classId, customerId: asset.customerId },
      })
      .from(asset)
      .where(inArray(asset.id, missing.slice(i, i + 1000))))
      known.set(r.id, r);
  return known;
}

async function byMachineOrClass(
  db: Db,
  rows: readonly Held[],
  charges: readonly ChargeSum[],
  by: 'class' | 'machine',
): Promise<Division> {
  const reached = await machinesReached(db, rows);
  const known = await machinesKnown(db, reached, charges);
  const [classes, payers] = await Promise.all([
    db.select({ id: assetClass.id, name: assetClass.name }).from(assetClass),
    by === 'class'
      ? []
      : db
          .select({ id: customer.id, name: customer.name })
          .from(customer)
          .where(inArray(customer.id, [...new Set([...known.values()].map((m) => m.customerId)), 0 as CustomerId])),
  ]);
  const classOf = new Map<AssetClassId, string>(classes.map((c) => [c.id, c.name]));
  const payerOf = new Map(payers.map((p) => [p.id, p]));
  const owner = (m: Known | undefined): Owner => {
    if (!m) return NO_MACHINE;
    if (by === 'class') return { id: m.classId, name: classOf.get(m.classId) ?? '', customer: null };
    return { id: m.id, name: `${m.tag} ${m.model}`, customer: payerOf.get(m.customerId) ?? null };
  };
  return {
    earners(row) {
      const own = reached.get(row.id) ?? [];
      return own.length === 0 ? [NO_MACHINE] : own.map(owner);
    },
    ownerOf: ({ assetId }) => owner(assetId === null ? undefined : known.get(assetId)),
  };
}

const divisionOf = (
  db: Db,
  rows: readonly Held[],
  charges: readonly ChargeSum[],
  by: MarginsBy,
): Division | Promise<Division> => {
  if (by === 'agreement') return byAgreement(rows);
  return by === 'customer' ? byCustomer(db, rows, charges) : byMachineOrClass(db, rows, charges, by);
};

/** Everything of a period by whose it is. */
async function sumsOf(db: Db, rows: readonly Held[], period: Period, by: MarginsBy): Promise<Sums> {
  const { from, to } = period;
  const [periods, charges, credited] = [
    await periodsOf(db, rows, to),
    await chargesIn(db, period, by === 'class' || by === 'machine'),
    await creditedIn(
      db,
      rows.map((r) => r.id),
      period,
    ),
  ];
  const creditOf = new Map<AgreementId, number>();
  for (const { agreementId, minor } of credited) creditOf.set(agreementId, (creditOf.get(agreementId) ?? 0) + minor);
  const { earners, ownerOf } = await divisionOf(db, rows, charges, by);
  const sums: Sums = new Map();
  const add = (owner: Owner, currency: string, more: Omit<MarginSums, 'margin'>): void => {
    const key = `${owner.id} ${currency}`;
    sums.set(key, { ...owner, currency, ...plus(sums.get(key) ?? NOTHING, more) });
  };
  for (const row of rows) {
    const earned = earnedIn(periods.get(row.id) ?? [], from, to) + (creditOf.get(row.id) ?? 0);
    const owners = earners(row);
    const shares = shareEvenly(earned, owners.length);
    for (const [i, owner] of owners.entries())
      add(owner, row.currency, { earned: shares[i] ?? 0, charged: 0, cost: 0 });
  }
  for (const c of charges) {
    const owner = ownerOf(c);
    if (owner) add(owner, c.currency, { earned: 0, charged: c.charged, cost: c.cost });
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
