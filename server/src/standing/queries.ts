// Standing, page by page: for each agreement, customer, site, depot or machine, what needs explaining first.
import { and, eq, inArray, isNotNull, sql } from 'drizzle-orm';
import type { StandingBy, StandingRow } from '#api/standing.ts';
import type { AgreementId, AssetId, CustomerId, DepotId, LocationId } from '#core/ids.ts';
import { amissIn, isCounted, NOTHING_COUNTED, withShares, type Counts } from '#core/standing/index.ts';
import type { Db } from '../platform/database.ts';
import { agreement, coverageLine } from '../agreements/tables.ts';
import { asset } from '../assets/tables.ts';
import { customer } from '../customers/tables.ts';
import { depot } from '../depots/tables.ts';
import { refuse } from '../platform/refuse.ts';
import { location } from '../places/tables.ts';
import { serviceLevel } from '../service-levels/tables.ts';
import { amissFirst, EVERYBODY, figuresOf, nextMachines, pageOf, type Told, type Within } from './counting.ts';
import { ALL, type Subject } from './course.ts';
import { daysApart, takenApart, type AskedPeriod } from './period.ts';
import type { SummedFor } from './tables.ts';

type Named = { readonly label: string; readonly detail: string; readonly customer: string };

const NONE: Readonly<Record<StandingBy, string>> = {
  ...{ asset: 'no machine', site: 'no place', agreement: 'no agreement' },
  ...{ customer: 'no customer', depot: 'no depot' },
};

/** How subjects are called. */
async function namesOf(db: Db, by: StandingBy, ids: readonly number[]): Promise<ReadonlyMap<number, Named>> {
  if (ids.length === 0) return new Map();
  const rows = await askedNames(db, by, ids);
  return new Map(
    rows.map(({ id, label, detail, customer: whose }) => [id as number, { label, detail, customer: whose }]),
  );
}

function askedNames(db: Db, by: StandingBy, ids: readonly number[]) {
  const none = sql<string>`''`;
  switch (by) {
    case 'asset':
      return db
        .select({ id: asset.id, label: asset.model, detail: asset.tag, customer: customer.name })
        .from(asset)
        .innerJoin(customer, eq(customer.id, asset.customerId))
        .where(inArray(asset.id, ids as AssetId[]));
    case 'agreement':
      return db
        .select({ id: agreement.id, label: agreement.name, detail: agreement.number, customer: customer.name })
        .from(agreement)
        .innerJoin(customer, eq(customer.id, agreement.customerId))
        .where(inArray(agreement.id, ids as AgreementId[]));
    case 'customer':
      return db
        .select({ id: customer.id, label: customer.name, detail: none, customer: none })
        .from(customer)
        .where(inArray(customer.id, ids as CustomerId[]));
    case 'depot':
      return db
        .select({ id: depot.id, label: depot.name, detail: none, customer: none })
        .from(depot)
        .where(inArray(depot.id, ids as DepotId[]));
    case 'site':
      return db
        .select({ id: location.id, label: location.name, detail: none, customer: none })
        .from(location)
        .where(inArray(location.id, ids as LocationId[]));
  }
}

type Counted = { readonly id: number; readonly figures: Counts };

async function shown(db: Db, by: StandingBy, counted: readonly Counted[]): Promise<StandingRow[]> {
  const real = counted.map((c) => c.id).filter((id) => id > 0);
  const [names, agreed] = await Promise.all([
    namesOf(db, by, real),
    by === 'agreement' ? agreedIn(db, real as AgreementId[]) : new Map<number, number>(),
  ]);
  return counted.map(({ id, figures: n }) => ({
    id,
    ...(names.get(id) ?? { label: NONE[by], detail: '', customer: '' }),
    ...{ ...withShares(n), agreed: agreed.get(id) ?? null },
  }));
}

/** Below which attainment a credit is owed by agreements: the highest threshold of their service levels. */
async function agreedIn(db: Db, ids: readonly AgreementId[]): Promise<ReadonlyMap<number, number>> {
  if (ids.length === 0) return new Map();
  const given = await db
    .selectDistinct({ id: coverageLine.agreementId, levelId: coverageLine.serviceLevelId })
    .from(coverageLine)
    .where(and(inArray(coverageLine.agreementId, [...ids]), isNotNull(coverageLine.serviceLevelId)));
  const levelIds = [...new Set(given.flatMap((g) => g.levelId ?? []))];
  if (levelIds.length === 0) return new Map();
  const levels = await db
    .select({ id: serviceLevel.id, pledge: serviceLevel.pledge })
    .from(serviceLevel)
    .where(inArray(serviceLevel.id, levelIds));
  const agreed = new Map<number, number>();
  for (const { id, levelId } of given)
    for (const { below } of levels.find((l) => l.id === levelId)?.pledge?.tiers ?? [])
      agreed.set(id, Math.max(below, agreed.get(id) ?? 0));
  return agreed;
}

/** Only a customer’s own. Refused: of sites and depots, which several customers may share. */
export function withinCustomer(by: StandingBy, id: CustomerId | undefined): Within {
  if (id === undefined) return EVERYBODY;
  if (by === 'asset') return (subject) => sql`${subject} in (select id from asset where customer_id = ${id})`;
  if (by === 'agreement') return (subject) => sql`${subject} in (select id from agreement where customer_id = ${id})`;
  if (by === 'customer') return (subject) => sql`${subject} = ${id}`;
  refuse('unsupported', 'Sites and depots are of several customers; ask for agreements or machines.', 'customer');
}

export type PageAsk = { readonly after: Told | null; readonly limit: number; readonly within?: Within };

async function machinesPage(
  db: Db,
  period: AskedPeriod,
  { after, limit, within = EVERYBODY }: PageAsk,
): Promise<Counted[]> {
  const [pieces, days] = [await takenApart(db, period), await daysApart(db, period)];
  const counted: Counted[] = [];
  const add = async (ids: readonly number[], some: (n: Counts) => boolean): Promise<void> => {
    const figures = await figuresOf(db, 'asset', days, period, ids);
    for (const id of ids) {
      const own = figures.get(id);
      if (own && some(own)) counted.push({ id, figures: own });
    }
  };
  if (after === null || after.amiss > 0)
    await add(await amissFirst(db, 'asset', pieces, period, { after, limit, within }), () => true);
  for (let next = after?.amiss === 0 ? after.id : 0; counted.length < limit;) {
    const ids = await nextMachines(db, days, period, { after: next, limit, within });
    await add(ids, (n) => amissIn(n) === 0 && isCounted(n));
    if (ids.length < limit) break;
    next = ids.at(-1) as number;
  }
  return counted.slice(0, limit);
}

/**
 * A row for each subject with a promise or a visit in the period: those with most missed promises and late visits first, then the
 * others in the order of their ids. `after` is the last that was told.
 */
export async function standingPage(db: Db, by: StandingBy, period: AskedPeriod, ask: PageAsk): Promise<StandingRow[]> {
  if (by === 'asset') return shown(db, by, await machinesPage(db, period, ask));
  const { after, limit, within = EVERYBODY } = ask;
  return shown(db, by, await pageOf(db, by, await takenApart(db, period), period, { after, limit, within }));
}

/** Where the list goes on after a row. */
export const toldOf = (row: StandingRow): Told => ({ amiss: amissIn(row), id: row.id });

/** What counts for some subjects in a period. */
export async function figuresIn(db: Db, of: SummedFor, ids: readonly number[], period: AskedPeriod) {
  const pieces = of === 'asset' ? await daysApart(db, period) : await takenApart(db, period);
  return figuresOf(db, of, pieces, period, ids);
}

/** The period as a whole, or of one subject of it. */
export async function standingTotal(db: Db, period: AskedPeriod, { of, id }: Subject = ALL) {
  return withShares((await figuresIn(db, of, [id], period)).get(id) ?? NOTHING_COUNTED);
}
