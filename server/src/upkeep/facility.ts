// A whole place: its machines with what their classes suggest and what is scheduled; many schedules set in one act, and what they would
// come to, which is the act itself given up.
import { group } from 'd3-array';
import { and, asc, eq, inArray, isNull, like, ne } from 'drizzle-orm';
import type { Asked } from '#api/contract.ts';
import { MACHINES_AT_ONCE, type Facility, type FacilityOutcome, type setFacility as contract } from '#api/facility.ts';
import type { AgreementId, AssetId, JobPlanId, LocationId, ScheduleId } from '#core/ids.ts';
import { addMonths, type LocalDate } from '#core/time/index.ts';
import { cadenceOf, sayCadence } from '#core/upkeep/index.ts';
import { agreement } from '../agreements/tables.ts';
import { asset } from '../assets/tables.ts';
import { assetClass, classJobPlan, jobPlan } from '../catalogue/tables.ts';
import { customer } from '../customers/tables.ts';
import { placesOf } from '../places/index.ts';
import { location } from '../places/tables.ts';
import type { Database, Db, Tx } from '../platform/database.ts';
import { previewed } from '../platform/preview.ts';
import { refuse, Refused } from '../platform/refuse.ts';
import type { Told, Write } from '../platform/writing.ts';
import { addFor, coveredBy, mustNotHaveEnded } from './adding.ts';
import { ordersAmong } from './joined.ts';
import { computeRun } from './owed.ts';
import { schedule, scheduleOutlook } from './tables.ts';
import { checkReferences, termColumns } from './terms.ts';

export type FacilityAsk = Asked<typeof contract>['body'];

async function placeRow(db: Db, id: LocationId) {
  const [row] = await db.select().from(location).where(eq(location.id, id));
  return row ?? refuse('not-found', 'That place does not exist.', 'placeId');
}

/** Machines at a place and below, in use, by tag. Refused: so many that nobody could look through them. */
async function machinesAt(db: Db, path: string) {
  const rows = await db
    .select({ asset, className: assetClass.name, fullName: location.fullName })
    .from(asset)
    .innerJoin(location, eq(location.id, asset.locationId))
    .innerJoin(assetClass, eq(assetClass.id, asset.classId))
    .where(and(like(location.path, `${path}%`), ne(asset.state, 'retired')))
    .orderBy(asc(asset.tag))
    .limit(MACHINES_AT_ONCE + 1);
  if (rows.length > MACHINES_AT_ONCE)
    refuse('too-large', `More than ${MACHINES_AT_ONCE} machines stand here; choose a place within it.`, 'place');
  return rows;
}

/** Agreements of the machines’ customers that are not over and cover some of them. */
async function agreementsOver(db: Db, machines: Awaited<ReturnType<typeof machinesAt>>) {
  const customers = [...new Set(machines.map((m) => m.asset.customerId))];
  if (customers.length === 0) return [];
  const rows = await db
    .select({ agreement, customer: customer.name })
    .from(agreement)
    .innerJoin(customer, eq(customer.id, agreement.customerId))
    .where(and(inArray(agreement.customerId, customers), ne(agreement.stage, 'ended')))
    .orderBy(asc(agreement.number))
    .limit(200);
  const reached = await Promise.all(rows.map((r) => coveredBy(db, r.agreement)));
  return rows.flatMap((r, i) => {
    const covered = reached[i] ?? new Set<AssetId>();
    return machines.some((m) => covered.has(m.asset.id)) ? [{ ...r, covered }] : [];
  });
}

const schedulesOf = (db: Db, assets: readonly AssetId[]) =>
  db
    .select({ schedule, nextDue: scheduleOutlook.nextDue, minutes: jobPlan.minutes })
    .from(schedule)
    .innerJoin(agreement, eq(agreement.id, schedule.agreementId))
    .innerJoin(jobPlan, eq(jobPlan.id, schedule.jobPlanId))
    .leftJoin(scheduleOutlook, eq(scheduleOutlook.scheduleId, schedule.id))
    .where(and(inArray(schedule.assetId, [...assets]), isNull(schedule.holdsTo), ne(agreement.stage, 'ended')))
    .orderBy(asc(schedule.id));

export async function readFacility(db: Db, placeId: LocationId, today: LocalDate): Promise<Facility> {
  const { path, name, fullName } = await placeRow(db, placeId);
  const machines = await machinesAt(db, path);
  const [places, over, held, suggestions] = await Promise.all([
    placesOf(db, [{ id: placeId, path }]),
    agreementsOver(db, machines),
    machines.length === 0
      ? []
      : schedulesOf(
          db,
          machines.map((m) => m.asset.id),
        ),
    db.select().from(classJobPlan),
  ]);
  const { join } = places.of(placeId);
  return {
    place: { id: placeId, name: places.of(placeId).label || name },
    join: join && { days: join.days, from: join.from },
    today,
    agreements: over.map(({ agreement: a, customer: of }) => ({
      ...{ id: a.id, number: a.number, name: a.name, stage: a.stage },
      customer: { id: a.customerId, name: of },
    })),
    machines: machines.map(({ asset: m, className, fullName: stands }) => ({
      ...{ assetId: m.id, tag: m.tag, model: m.model, className, customerId: m.customerId },
      place: stands === fullName ? '' : stands.slice(fullName.length + 3).replaceAll(' > ', ' · '),
      agreementIds: over.filter((o) => o.covered.has(m.id)).map((o) => o.agreement.id),
      suggested: suggestions.filter((s) => s.classId === m.classId).map((s) => s.jobPlanId),
      schedules: held
        .filter((h) => h.schedule.assetId === m.id)
        .map(({ schedule: s, nextDue }) => ({
          ...{ jobPlanId: s.jobPlanId, scheduleId: s.id, agreementId: s.agreementId, nextDue },
          sentence: sayCadence(cadenceOf(s)),
        })),
    })),
  };
}

/** What is refused of one of several is refused at its fields. */
async function atField<T>(field: string, work: () => Promise<T>): Promise<T> {
  try {
    return await work();
  } catch (error) {
    if (!(error instanceof Refused)) throw error;
    throw new Refused(
      error.refusals.map((r) => ({ ...r, field: r.field === undefined ? field : `${field}.${r.field}` })),
    );
  }
}

/** Refused: a machine that is kept by that job plan under the agreement already, or twice among those to be set. */
async function mustBeNew(tx: Tx, agreementId: AgreementId, jobPlanId: JobPlanId, assetIds: readonly AssetId[]) {
  const [known] = await tx.db
    .select({ tag: asset.tag })
    .from(schedule)
    .innerJoin(asset, eq(asset.id, schedule.assetId))
    .where(
      and(
        eq(schedule.agreementId, agreementId),
        eq(schedule.jobPlanId, jobPlanId),
        inArray(schedule.assetId, [...assetIds]),
        isNull(schedule.holdsTo),
      ),
    )
    .limit(1);
  if (known) refuse('conflict', `${known.tag} has a schedule of this job plan already; change that one.`, 'assetIds');
}

/** Makes all of the schedules or none. Refused: what adding a schedule refuses, machines of another place, and doubles. */
async function makeAll(
  tx: Tx,
  { placeId, sets }: FacilityAsk,
  today: LocalDate,
  told: Told | null,
): Promise<ScheduleId[]> {
  const ids = [...new Set(sets.map((s) => s.agreementId))].sort((a, b) => a - b);
  // Before anything is read: of two who set the same at once, the second sees what the first made.
  const rows = await tx.db
    .select()
    .from(agreement)
    .where(inArray(agreement.id, ids))
    .orderBy(asc(agreement.id))
    .for('update');
  const { path } = await placeRow(tx.db, placeId);
  const here = new Set((await machinesAt(tx.db, path)).map((m) => m.asset.id));
  const covered = new Map<AgreementId, Set<AssetId>>();
  for (const row of rows) covered.set(row.id, await coveredBy(tx.db, row));
  const made: ScheduleId[] = [];
  for (const [i, set] of sets.entries())
    await atField(`sets.${i}`, async () => {
      const row = rows.find((r) => r.id === set.agreementId);
      if (!row) refuse('not-found', 'That agreement does not exist.', 'agreementId');
      mustNotHaveEnded(row);
      const { agreementId, assetIds, ...terms } = set;
      if (assetIds.some((id) => !here.has(id)))
        refuse('invalid', 'One of these machines does not stand here any more; look at the place again.', 'assetIds');
      const columns = termColumns(terms);
      const plan = await checkReferences(tx, terms);
      const machines = [...new Set(assetIds)];
      await mustBeNew(tx, agreementId, terms.jobPlanId, machines);
      made.push(...(await addFor(tx, row, machines, covered.get(agreementId) ?? new Set(), columns, today)));
      told?.({ subject: 'agreement', id: agreementId, text: `${plan} scheduled for ${machines.length} machines` });
    });
  return made;
}

export async function setFacility(write: Write, ask: FacilityAsk, today: LocalDate): Promise<number> {
  return write(async (tx, told) => (await makeAll(tx, ask, today, told)).length);
}

/** The visits and orders of the coming year that these schedules alone would come to. */
export function previewFacility(database: Database, ask: FacilityAsk, today: LocalDate): Promise<FacilityOutcome> {
  return previewed(database, async (tx) => outcomeOf(tx, await makeAll(tx, ask, today, null), today));
}

async function outcomeOf(tx: Tx, ids: readonly ScheduleId[], today: LocalDate): Promise<FacilityOutcome> {
  const until = addMonths(today, 12);
  const { owed, nothing } = await computeRun(tx.db, until, { ids });
  const within = owed.filter(({ visit }) => visit.due < until);
  const orders = ordersAmong(within);
  const months = group(within, ({ visit }) => visit.due.slice(0, 7));
  return {
    schedules: ids.length,
    visits: within.length,
    orders: orders.length,
    months: [...months]
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .map(([month, visits]) => ({
        month,
        visits: visits.length,
        orders: orders.filter((o) => o.day.startsWith(month)).length,
        minutes: visits.reduce((sum, { visit }) => sum + visit.minutes, 0),
      })),
    nothing: nothing.map(({ row, nothing: why }) => ({
      ...{ tag: row.tag, jobPlanId: row.schedule.jobPlanId, reason: why.reason },
    })),
  };
}
