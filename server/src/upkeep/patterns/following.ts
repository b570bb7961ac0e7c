// Schedules following their pattern after it was changed: looked at before, and done, by the same rule.
import { and, asc, eq, gt, gte, inArray, max, sql } from 'drizzle-orm';
import type { Follower } from '#api/patterns.ts';
import type { PatternId, ScheduleId } from '#core/ids.ts';
import { addDays, addMonths, localDateAt, sayDate, type Instant, type LocalDate } from '#core/time/index.ts';
import { cadenceOf, planFollowing, previewCadence, type Following } from '#core/upkeep/index.ts';
import { agreement } from '../../agreements/tables.ts';
import { asset } from '../../assets/tables.ts';
import { calendarBook, type CalendarBook } from '../../calendars/index.ts';
import { customer } from '../../customers/tables.ts';
import { placesOf } from '../../places/index.ts';
import { location } from '../../places/tables.ts';
import type { Db, Tx } from '../../platform/database.ts';
import type { Person } from '../../platform/http.ts';
import { refuse, stale } from '../../platform/refuse.ts';
import type { Told, Write } from '../../platform/writing.ts';
import { schedule, visit, type TermColumns } from '../tables.ts';
import { asSaid, madeFrom, patternOf, termsText, type Pattern } from './patterns.ts';

type Schedule = typeof schedule.$inferSelect;

/** The latest identifying date of a raised visit, by schedule. */
async function lastRaised(db: Db, ids: readonly ScheduleId[]): Promise<ReadonlyMap<ScheduleId, LocalDate>> {
  if (ids.length === 0) return new Map();
  const rows = await db
    .select({ id: visit.scheduleId, last: max(visit.nominal) })
    .from(visit)
    .where(and(inArray(visit.scheduleId, [...ids]), eq(visit.state, 'raised')))
    .groupBy(visit.scheduleId);
  return new Map(rows.flatMap((r) => (r.last === null ? [] : [[r.id, r.last] as const])));
}

function planOf(s: Schedule, stage: string, pattern: Pattern, last: LocalDate | null, from: LocalDate): Following {
  const facts = {
    cadence: s.cadence,
    otherTerms: termsText(s) !== termsText(pattern.terms),
    isDraft: stage === 'draft',
    lastRaised: last,
  };
  return planFollowing(facts, pattern.terms.cadence, from);
}

/** More days of a year are not shown one by one. */
const MOST_DAYS = 400;

function daysOf(
  terms: TermColumns,
  calendarId: Schedule['calendarId'],
  book: CalendarBook,
  [from, to]: readonly [LocalDate, LocalDate],
): LocalDate[] {
  const { convention, earlyDays, lateDays, leadDays: lead, leadUnit, weekday } = terms;
  const dates = { convention, earlyDays, lateDays, lead, leadUnit, weekday };
  return previewCadence(cadenceOf(terms), dates, book.workingDays(calendarId), from, MOST_DAYS)
    .filter((v) => v.nominal <= to)
    .map((v) => v.planned);
}

/** Schedules of a pattern that are otherwise than it says, with the days of the coming year before and after; by id. */
export async function followersOf(
  db: Db,
  id: PatternId,
  { from, after, limit }: { readonly from: LocalDate; readonly after: number; readonly limit: number },
): Promise<{ items: Follower[]; next: string | null; total: number }> {
  const pattern = await patternOf({ db }, id);
  const differing = and(madeFrom(id), sql`not (${asSaid(pattern)})`);
  const rows = await db
    .select({
      schedule,
      tag: asset.tag,
      customer: customer.name,
      agreement: agreement.number,
      stage: agreement.stage,
      termTo: agreement.termTo,
      locationId: asset.locationId,
      path: location.path,
    })
    .from(schedule)
    .innerJoin(asset, eq(asset.id, schedule.assetId))
    .innerJoin(agreement, eq(agreement.id, schedule.agreementId))
    .innerJoin(customer, eq(customer.id, agreement.customerId))
    .leftJoin(location, eq(location.id, asset.locationId))
    .where(and(differing, gt(schedule.id, after as ScheduleId)))
    .orderBy(asc(schedule.id))
    .limit(limit + 1);
  const page = rows.slice(0, limit);
  const [places, book, last] = await Promise.all([
    placesOf(
      db,
      page.map((r) => ({ id: r.locationId, path: r.path })),
    ),
    calendarBook(db),
    lastRaised(
      db,
      page.map((r) => r.schedule.id),
    ),
  ]);
  const items = page.map(
    ({ schedule: s, tag, customer: name, agreement: number, stage, termTo, locationId }): Follower => {
      const plan = planOf(s, stage, pattern, last.get(s.id) ?? null, from);
      const begin = plan.kind === 'from a day on' ? plan.from : from;
      const yearEnd = addMonths(begin, 12);
      const span = [begin, termTo !== null && termTo < yearEnd ? termTo : yearEnd] as const;
      const own = places.of(locationId).calendar?.value ?? null;
      const next = { ...pattern.terms, anchor: s.anchor };
      return {
        ...{ scheduleId: s.id, tag, customer: name, agreement: number },
        from: plan.kind === 'from a day on' ? plan.from : null,
        before: daysOf(s, s.calendarId ?? own, book, span),
        after: daysOf(next, next.calendarId ?? own, book, span),
      };
    },
  );
  const end = page[page.length - 1]?.schedule.id;
  const total = await db.$count(schedule, differing);
  return { items, next: rows.length > limit && end !== undefined ? String(end) : null, total };
}

/** Visits for the day and later keep their identity under the new schedule, so that none is raised twice. */
async function replace(tx: Tx, s: Schedule, pattern: Pattern, from: LocalDate): Promise<ScheduleId> {
  const { id, version: _, ...kept } = s;
  const [made] = await tx.db
    .insert(schedule)
    .values({ ...kept, ...pattern.terms, turns: [], holdsFrom: from })
    .$returningId();
  const next = made?.id as ScheduleId;
  await tx.db
    .update(schedule)
    .set({ holdsTo: addDays(from, -1), replacedById: next, version: s.version + 1 })
    .where(eq(schedule.id, id));
  await tx.db
    .update(visit)
    .set({ scheduleId: next })
    .where(and(eq(visit.scheduleId, id), gte(visit.nominal, from)));
  return next;
}

async function follow(tx: Tx, told: Told, s: Schedule, pattern: Pattern, plan: Following): Promise<number> {
  switch (plan.kind) {
    case 'same':
      return 0;
    case 'in place':
      await tx.db
        .update(schedule)
        .set({ ...pattern.terms, version: s.version + 1 })
        .where(eq(schedule.id, s.id));
      told({ subject: 'schedule', id: s.id, text: `follows ${pattern.name} again` });
      return 1;
    case 'from a day on': {
      const next = await replace(tx, s, pattern, plan.from);
      told({ subject: 'schedule', id: s.id, text: `follows ${pattern.name} from ${sayDate(plan.from)}` });
      told({ subject: 'schedule', id: next, text: `made from ${pattern.name} in the place of another` });
      return 1;
    }
  }
}

/**
 * Lets schedules follow their pattern. Refused: a pattern that was changed since it was looked at, a day in the past, schedules that
 * are not made from it.
 */
export async function followPattern(
  write: Write,
  id: PatternId,
  ask: { readonly version: number; readonly from: LocalDate; readonly scheduleIds: readonly ScheduleId[] },
  who: Person,
  now: Instant,
): Promise<number> {
  const today = localDateAt(who.zone, now);
  if (ask.from < today) refuse('invalid', `Choose a day from today, ${sayDate(today)}, on.`, 'from');
  return write(async (tx, told) => {
    const pattern = await patternOf(tx, id, 'lock');
    if (pattern.version !== ask.version) stale(pattern);
    const ids = [...new Set(ask.scheduleIds)];
    const rows = await tx.db
      .select({ schedule, stage: agreement.stage })
      .from(schedule)
      .innerJoin(agreement, eq(agreement.id, schedule.agreementId))
      .where(and(madeFrom(id), inArray(schedule.id, ids), gt(schedule.id, 0 as ScheduleId)))
      .orderBy(schedule.id)
      .for('update');
    if (rows.length < ids.length)
      refuse(
        'not-found',
        `${ids.length - rows.length} of these schedules are not made from ${pattern.name}, or have ended.`,
        'scheduleIds',
      );
    const last = await lastRaised(tx.db, ids);
    let followed = 0;
    for (const { schedule: s, stage } of rows)
      followed += await follow(tx, told, s, pattern, planOf(s, stage, pattern, last.get(s.id) ?? null, ask.from));
    return followed;
  });
}
