// Visit patterns: kept, listed with who follows, applied to agreements.
import { and, asc, count, eq, inArray, isNull, ne, sql, type SQL } from 'drizzle-orm';
import type { Asked } from '#api/contract.ts';
import type * as contracts from '#api/patterns.ts';
import type { Candidate, PatternOut } from '#api/patterns.ts';
import type { AgreementId, AgreementTypeId, AssetClassId, AssetId, CustomerId, PatternId } from '#core/ids.ts';
import { localDateAt, type Instant, type LocalDate } from '#core/time/index.ts';
import { cadenceOf, sayCadence } from '#core/upkeep/index.ts';
import { agreement } from '../../agreements/tables.ts';
import { asset } from '../../assets/tables.ts';
import { assetClass, jobPlan } from '../../catalogue/tables.ts';
import { customer } from '../../customers/tables.ts';
import { reachOf } from '../../entitlement/index.ts';
import type { Db, Tx } from '../../platform/database.ts';
import type { Person } from '../../platform/http.ts';
import { refuse, stale } from '../../platform/refuse.ts';
import { unlessNamed, type Told, type Write } from '../../platform/writing.ts';
import { schedule, visitPattern, type TermColumns } from '../tables.ts';
import { checkReferences, termColumns } from '../terms.ts';

export type Pattern = typeof visitPattern.$inferSelect;
type Body = Asked<typeof contracts.addPattern>['body'];

/** Sentences of what leaves its day to the day it counts from are said as of this one. */
const ANY_DAY = '2028-01-01' as LocalDate;

function columnsOf({ name, classId, ...terms }: Body): Pick<Pattern, 'name' | 'classId' | 'terms'> {
  const { anchor: _, ...columns } = termColumns({ ...terms, anchor: ANY_DAY });
  return { name, classId, terms: columns };
}

/** Compared as text: what a schedule of the pattern has otherwise than it. */
export const termsText = (of: Omit<TermColumns, 'anchor'>): string => {
  const { jobPlanId, convention, calendarId, earlyDays, lateDays, leadDays, leadUnit, weekday, timeOfDay } = of;
  const { crew, technicianId, hours, absorbDays, needsYes, visitPrice, reminder } = of;
  return JSON.stringify([
    ...[jobPlanId, convention, calendarId, earlyDays, lateDays, leadDays, leadUnit, weekday, timeOfDay],
    ...[crew, technicianId, hours, absorbDays, needsYes, visitPrice, reminder],
  ]);
};

/** The same, as the database finds it. JSON is kept as it was written, and written in one order. */
export function asSaid({ terms }: Pattern): SQL {
  const { cadence, hours, ...plain } = terms;
  const same = Object.entries(plain).map(([name, value]) => sql`${schedule[name as keyof typeof plain]} <=> ${value}`);
  const text = (column: unknown, value: unknown): SQL => sql`cast(${column} as char) <=> ${JSON.stringify(value)}`;
  const sameHours =
    hours === null ? sql`(${schedule.hours} is null or ${text(schedule.hours, null)})` : text(schedule.hours, hours);
  return sql.join([...same, text(schedule.cadence, cadence), sameHours], sql` and `);
}

/** Schedules made from a pattern that hold. */
export const madeFrom = (id: PatternId): SQL | undefined => and(eq(schedule.patternId, id), isNull(schedule.holdsTo));

async function checkClass(tx: Tx, id: AssetClassId | null): Promise<void> {
  if (id === null) return;
  const [known] = await tx.db.select({ id: assetClass.id }).from(assetClass).where(eq(assetClass.id, id));
  if (!known) refuse('not-found', 'That class does not exist; choose another.', 'classId');
}

export async function patternOf(
  { db }: Pick<Tx, 'db'>,
  id: PatternId,
  lock: 'lock' | 'look' = 'look',
): Promise<Pattern> {
  const found = db.select().from(visitPattern).where(eq(visitPattern.id, id));
  const [row] = await (lock === 'lock' ? found.for('update') : found);
  return row ?? refuse('not-found', 'That pattern does not exist.');
}

export const addPattern = (write: Write, body: Body): Promise<{ id: number }> =>
  unlessNamed('pattern', () =>
    write(async (tx, told) => {
      await checkClass(tx, body.classId);
      await checkReferences(tx, { ...body, anchor: ANY_DAY });
      const [row] = await tx.db.insert(visitPattern).values(columnsOf(body)).$returningId();
      const id = row?.id as PatternId;
      told({ subject: 'visit pattern', id, text: `added ${body.name}` });
      return { id };
    }),
  );

export const changePattern = (
  write: Write,
  id: PatternId,
  { version, ...body }: Asked<typeof contracts.changePattern>['body'],
): Promise<{ version: number }> =>
  unlessNamed('pattern', () =>
    write(async (tx, told) => {
      const row = await patternOf(tx, id, 'lock');
      if (row.version !== version) stale(row);
      await checkClass(tx, body.classId);
      await checkReferences(tx, { ...body, anchor: ANY_DAY });
      await tx.db
        .update(visitPattern)
        .set({ ...columnsOf(body), version: version + 1 })
        .where(eq(visitPattern.id, id));
      told({ subject: 'visit pattern', id, text: `changed ${body.name}` });
      return { version: version + 1 };
    }),
  );

/** Refused: one that schedules are made from, whatever became of them. */
export async function removePattern(write: Write, id: PatternId): Promise<void> {
  await write(async (tx, told) => {
    const { name } = await patternOf(tx, id, 'lock');
    const [used] = await tx.db.select({ n: count() }).from(schedule).where(eq(schedule.patternId, id));
    if (used && used.n > 0)
      refuse(
        'conflict',
        `${used.n === 1 ? 'One schedule is' : `${used.n} schedules are`} made from ${name}; a pattern goes when no schedule of it is left.`,
      );
    await tx.db.delete(visitPattern).where(eq(visitPattern.id, id));
    told({ subject: 'visit pattern', id, text: `removed ${name}` });
  });
}

export async function listPatterns(db: Db): Promise<PatternOut[]> {
  const rows = await db
    .select({ pattern: visitPattern, className: assetClass.name, jobPlan: jobPlan.name })
    .from(visitPattern)
    .leftJoin(assetClass, eq(assetClass.id, visitPattern.classId))
    .leftJoin(jobPlan, sql`${jobPlan.id} = json_value(${visitPattern.terms}, '$.jobPlanId')`)
    .orderBy(asc(visitPattern.name))
    .limit(500);
  const counted = await Promise.all(
    rows.map(({ pattern }) =>
      Promise.all([
        db.$count(schedule, madeFrom(pattern.id)),
        db.$count(schedule, and(madeFrom(pattern.id), asSaid(pattern))),
      ]),
    ),
  );
  return rows.map(({ pattern, className, jobPlan: plan }, i) => {
    const [schedules, following] = counted[i] as [number, number];
    const { leadDays, ...terms } = pattern.terms;
    return {
      id: pattern.id,
      version: pattern.version,
      class: pattern.classId === null ? null : { id: pattern.classId, name: className ?? '' },
      sentence: sayCadence(cadenceOf({ cadence: terms.cadence, anchor: ANY_DAY })),
      jobPlan: plan ?? '',
      schedules,
      following,
      pattern: { name: pattern.name, classId: pattern.classId, ...terms, lead: leadDays },
    };
  });
}

type Open = { readonly id: AgreementId; readonly customerId: CustomerId };

/** Covered machines of an agreement, of the pattern’s class, that have no schedule of the pattern. */
async function machinesWithout(
  db: Db,
  { id: patternId, classId }: Pattern,
  { id, customerId }: Open,
): Promise<AssetId[]> {
  const covered = [...new Set((await reachOf(db, id, customerId)).flatMap((r) => r.assetIds))];
  if (covered.length === 0) return [];
  const [machines, own] = await Promise.all([
    classId === null
      ? covered.map((assetId) => ({ id: assetId }))
      : db
          .select({ id: asset.id })
          .from(asset)
          .where(and(inArray(asset.id, covered), eq(asset.classId, classId))),
    db
      .select({ assetId: schedule.assetId })
      .from(schedule)
      .where(and(eq(schedule.agreementId, id), eq(schedule.patternId, patternId), isNull(schedule.holdsTo))),
  ]);
  const known = new Set(own.map((s) => s.assetId));
  return machines.map((m) => m.id).filter((assetId) => !known.has(assetId));
}

/** Agreements are looked at up to this many: of more a type is asked for. */
const MOST_AGREEMENTS = 200;

/** Agreements that are not over, of a type, with how many machines the pattern could be applied to. */
export async function candidatesOf(db: Db, id: PatternId, typeId: AgreementTypeId | undefined): Promise<Candidate[]> {
  const pattern = await patternOf({ db }, id);
  const rows = await db
    .select({ agreement, customer: customer.name })
    .from(agreement)
    .innerJoin(customer, eq(customer.id, agreement.customerId))
    .where(and(ne(agreement.stage, 'ended'), typeId === undefined ? undefined : eq(agreement.typeId, typeId)))
    .orderBy(asc(agreement.number))
    .limit(MOST_AGREEMENTS + 1);
  if (rows.length > MOST_AGREEMENTS)
    refuse('too-large', `More than ${MOST_AGREEMENTS} agreements; choose an agreement type.`, 'type');
  const found: Candidate[] = [];
  for (const { agreement: a, customer: name } of rows) {
    const machines = (await machinesWithout(db, pattern, a)).length;
    const { stage } = a;
    if (machines > 0 && stage !== 'ended')
      found.push({ agreementId: a.id, number: a.number, customer: name, stage, machines });
  }
  return found;
}

/** Makes schedules from a pattern, under agreements in force from today on. Refused: an agreement that has ended. */
export async function applyPattern(
  write: Write,
  id: PatternId,
  agreementIds: readonly AgreementId[],
  who: Person,
  now: Instant,
): Promise<number> {
  return write(async (tx, told) => {
    const pattern = await patternOf(tx, id, 'lock');
    const rows = await tx.db
      .select()
      .from(agreement)
      .where(inArray(agreement.id, [...new Set(agreementIds)]))
      .orderBy(agreement.id)
      .for('update');
    if (rows.length < new Set(agreementIds).size)
      refuse('not-found', 'One of the agreements does not exist.', 'agreementIds');
    let added = 0;
    for (const row of rows) {
      if (row.stage === 'ended')
        refuse('wrong-stage', `${row.number} has ended; no visits can be added to it.`, 'agreementIds');
      added += await makeFor(tx, told, pattern, row, localDateAt(who.zone, now));
    }
    return added;
  });
}

async function makeFor(
  tx: Tx,
  told: Told,
  pattern: Pattern,
  row: typeof agreement.$inferSelect,
  today: LocalDate,
): Promise<number> {
  const machines = await machinesWithout(tx.db, pattern, row);
  if (machines.length === 0) return 0;
  await tx.db.insert(schedule).values(
    machines.map((assetId) => ({
      ...pattern.terms,
      ...{ agreementId: row.id, assetId, anchor: row.termFrom, patternId: pattern.id, turns: [] },
      // Nothing that lay before it was promised is owed.
      holdsFrom: row.stage === 'draft' ? null : today,
    })),
  );
  told({ subject: 'agreement', id: row.id, text: `${machines.length} schedules made from ${pattern.name}` });
  return machines.length;
}
