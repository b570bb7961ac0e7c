// Schedules that follow a coverage line: a machine that comes under it gets one, a machine that leaves it loses its own.
import { group } from 'd3-array';
import { and, eq, inArray, isNull, ne, or, type SQL } from 'drizzle-orm';
import { changeSchedule } from '#api/schedules.ts';
import { asId, type AgreementId, type AssetId, type CustomerId, type PersonId, type ScheduleId } from '#core/ids.ts';
import { addDays, type Instant, type LocalDate } from '#core/time/index.ts';
import { agreement } from '../agreements/tables.ts';
import { reachOf } from '../entitlement/index.ts';
import { asset } from '../assets/tables.ts';
import type { Database, Db, Tx } from '../platform/database.ts';
import { writeAs, type Told } from '../platform/writing.ts';
import { lineSchedule, schedule } from './tables.ts';

/** Whose machines or lines may have changed: all, or some agreements and machines. */
export type Touched = 'all' | { readonly agreements: readonly AgreementId[]; readonly assets: readonly AssetId[] };

export type Keeping = {
  readonly today: LocalDate;
  readonly now: Instant;
  /** Run in each transaction: throws when somebody else has taken over. */
  readonly hold: (tx: Tx) => Promise<void>;
};

type Group = {
  readonly group: typeof lineSchedule.$inferSelect;
  readonly agreementId: AgreementId;
  readonly customerId: CustomerId;
  readonly isDraft: boolean;
};

async function customersOf(db: Db, assets: readonly AssetId[]): Promise<CustomerId[]> {
  const found: CustomerId[] = [];
  for (let i = 0; i < assets.length; i += 1000)
    for (const { id } of await db
      .selectDistinct({ id: asset.customerId })
      .from(asset)
      .where(inArray(asset.id, assets.slice(i, i + 1000))))
      found.push(id);
  return [...new Set(found)];
}

/** Line schedules that may have gained or lost a machine. */
async function groupsOf(db: Db, touched: Touched): Promise<Group[]> {
  let some: SQL | undefined;
  if (touched !== 'all') {
    const customers = touched.assets.length === 0 ? [] : await customersOf(db, touched.assets);
    const either = [
      ...(touched.agreements.length > 0 ? [inArray(agreement.id, [...touched.agreements])] : []),
      ...(customers.length > 0 ? [inArray(agreement.customerId, customers)] : []),
    ];
    if (either.length === 0) return [];
    some = or(...either);
  }
  const rows = await db
    .select({
      group: lineSchedule,
      agreementId: agreement.id,
      customerId: agreement.customerId,
      stage: agreement.stage,
    })
    .from(lineSchedule)
    .innerJoin(agreement, eq(agreement.id, lineSchedule.agreementId))
    .where(and(ne(agreement.stage, 'ended'), some));
  return rows.map(({ stage, ...row }) => ({ ...row, isDraft: stage === 'draft' }));
}

type Reach = Awaited<ReturnType<typeof reachOf>>;

/** Machines that a line of the kind reaches today or later, each with the first day; the line may go on from others. */
function reachedBy(reach: Reach, { lineId }: Group['group'], today: LocalDate): ReadonlyMap<AssetId, LocalDate> {
  const found = new Map<AssetId, LocalDate>();
  for (const { line, assetIds } of reach) {
    if (line.id !== lineId && line.rootId !== lineId) continue;
    if (line.termTo !== null && line.termTo < today) continue;
    const from = line.termFrom > today ? line.termFrom : today;
    for (const id of assetIds) {
      const before = found.get(id);
      if (before === undefined || from < before) found.set(id, from);
    }
  }
  return found;
}

/** Makes and ends the schedules of one line schedule. */
async function keepGroup(tx: Tx, told: Told, of: Group, reach: Reach, { today, now }: Keeping): Promise<ScheduleId[]> {
  const { db } = tx;
  const { id: lineScheduleId, terms } = of.group;
  const members = await db
    .select({ id: schedule.id, assetId: schedule.assetId, holdsFrom: schedule.holdsFrom })
    .from(schedule)
    .where(and(eq(schedule.lineScheduleId, lineScheduleId), isNull(schedule.holdsTo)));
  const reached = reachedBy(reach, of.group, today);
  const known = new Set(members.map((m) => m.assetId));
  const coming = [...reached].filter(([id]) => !known.has(id));
  const going = members.filter((m) => !reached.has(m.assetId));
  const changed: ScheduleId[] = [];
  if (coming.length > 0) {
    const rows = coming.map(([assetId, from]) => ({
      ...terms,
      ...{ agreementId: of.agreementId, assetId, lineScheduleId, turns: [] },
      holdsFrom: of.isDraft ? null : from,
      joinedAt: of.isDraft ? null : now,
    }));
    const made = await db.insert(schedule).values(rows).$returningId();
    changed.push(...made.map((m) => m.id));
  }
  const ids = going.map((m) => m.id);
  if (ids.length > 0 && of.isDraft) await db.delete(schedule).where(inArray(schedule.id, ids));
  else if (ids.length > 0) {
    await db
      .update(schedule)
      .set({ holdsTo: addDays(today, -1), leftAt: now })
      .where(inArray(schedule.id, ids));
    changed.push(...ids);
  }
  for (const [what, count] of [['came under', coming.length] as const, ['left', going.length] as const])
    if (count > 0)
      told({
        subject: 'agreement',
        id: of.agreementId,
        text: `${count === 1 ? 'a machine' : `${count} machines`} ${what} a line that is kept`,
      });
  return changed;
}

const BY_ITSELF = { id: asId<PersonId>(0) };

/** Brings the members of line schedules up to what their lines reach; gives the schedules that were made or ended. */
export async function keepMembers(database: Database, touched: Touched, keeping: Keeping): Promise<ScheduleId[]> {
  const changed: ScheduleId[] = [];
  for (const groups of group(await groupsOf(database.db, touched), (g) => g.agreementId).values()) {
    const [{ agreementId, customerId }] = groups as [Group, ...Group[]];
    const reach = await reachOf(database.db, agreementId, customerId);
    changed.push(
      ...(await writeAs(
        database,
        BY_ITSELF,
        changeSchedule,
      )(async (tx, told) => {
        await keeping.hold(tx);
        const own: ScheduleId[] = [];
        for (const of of groups) own.push(...(await keepGroup(tx, told, of, reach, keeping)));
        return own;
      })),
    );
  }
  return changed;
}

/** A schedule for whatever a line reaches now and later; its first members are made with it, and told by whoever asks for it. Gives how many. */
export async function addLineSchedule(
  tx: Tx,
  { lineId, terms, ...of }: Omit<Group, 'group'> & Pick<Group['group'], 'lineId' | 'terms'>,
  keeping: Keeping,
): Promise<number> {
  const [made] = await tx.db.insert(lineSchedule).values({ agreementId: of.agreementId, lineId, terms }).$returningId();
  const group_ = { id: made?.id as Group['group']['id'], agreementId: of.agreementId, lineId, terms };
  const reach = await reachOf(tx.db, of.agreementId, of.customerId);
  return (await keepGroup(tx, () => undefined, { ...of, group: group_ }, reach, keeping)).length;
}
