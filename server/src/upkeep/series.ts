// One schedule's series: its visits as they were and are to be, and what a person changes in it.
import { and, eq, isNull } from 'drizzle-orm';
import type * as v from 'valibot';
import { changeSeries as contract, type seriesChange, type ScheduleSeries, type SeriesVisit } from '#api/schedules.ts';
import type { LineScheduleId, ScheduleId } from '#core/ids.ts';
import { decided, refused, type Decided } from '#core/refusal.ts';
import { parseRule, printRule, sayRule } from '#core/recurrence/index.ts';
import {
  addDays,
  localDateAt,
  sayDate,
  SHORT_DAYS,
  type Instant,
  type LocalDate,
  type Zone,
} from '#core/time/index.ts';
import {
  changeSeries,
  leftOutVisits,
  nameOf,
  proposeVisits,
  sayCadence,
  writtenTurn,
  MAX_LOOK_AHEAD_DAYS,
  type Deviation,
  type Schedule,
  type Turn,
  type Visit,
  type VisitChange,
} from '#core/upkeep/index.ts';
import { keepAudit } from '../platform/audit.ts';
import type { Database, Db, Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { announce } from '../platform/live.ts';
import { accept, refuse } from '../platform/refuse.ts';
import { joinedDays } from './joined.ts';
import { loadSeries, visitKey } from './owed.ts';
import { schedule, visit, visitChange } from './tables.ts';

/** A series of more visits than this in a year is shown as far as it goes. */
const SHOWN = 400;

function sayTurn(turn: Turn): string {
  switch (turn.kind) {
    case 'rule':
      return sayRule(turn.rule, turn.from, printRule(turn.rule));
    case 'weekday':
      return `${SHORT_DAYS[turn.now - 1]} instead of ${SHORT_DAYS[turn.was - 1]}, in the same weeks`;
    case 'ends':
      return `no more visits: ${turn.reason}`;
    case 'work': {
      const parts = [
        turn.minutes === undefined ? null : `${turn.minutes} minutes`,
        turn.crew === undefined ? null : `a crew of ${turn.crew}`,
        turn.technicianId === undefined ? null : 'another technician',
      ];
      return parts.filter((x) => x !== null).join(', ');
    }
  }
}

function sayDeviation(deviation: Deviation | undefined): string | null {
  if (!deviation) return null;
  const { added, movedTo, agreed, skipped, minutes, crew } = deviation;
  const parts = [
    skipped === null ? null : `left out: ${skipped}`,
    added ? 'added by hand' : null,
    movedTo === null ? null : agreed ? 'moved as agreed with the customer' : 'moved by hand',
    minutes === undefined ? null : `takes ${minutes} minutes`,
    crew === undefined ? null : `a crew of ${crew}`,
  ].filter((x) => x !== null);
  return parts.length === 0 ? null : parts.join(', ');
}

const shown = (v: Visit, changed: string | null): SeriesVisit => ({
  nominal: v.nominal,
  part: v.part,
  planned: v.planned,
  due: v.due,
  windowFrom: v.windowFrom,
  windowTo: v.windowTo,
  raise: v.raise,
  minutes: v.minutes,
  crew: v.crew,
  changed,
  state: 'to come',
  joins: 0,
  orderId: null,
});

async function pastVisits(db: Db, id: ScheduleId, from: LocalDate): Promise<SeriesVisit[]> {
  const rows = await db.select().from(visit).where(eq(visit.scheduleId, id)).orderBy(visit.planned, visit.part);
  return rows
    .filter((r) => r.state !== 'held' && r.state !== 'accepted' && r.planned >= from)
    .map((r) => ({
      nominal: r.nominal,
      part: r.part,
      planned: r.planned,
      due: r.due,
      windowFrom: r.windowFrom,
      windowTo: r.windowTo,
      raise: null,
      minutes: null,
      crew: null,
      changed: null,
      state:
        r.state === 'raised'
          ? r.completedOn === null
            ? ('raised' as const)
            : ('done' as const)
          : (r.state as 'declined' | 'absorbed' | 'called off'),
      joins: 0,
      orderId: r.orderId,
    }));
}

/** Visits that are left out stand where the rule would have them. */
function leftOut(s: Schedule, to: LocalDate): SeriesVisit[] {
  const names = new Map(s.deviations.map((d) => [nameOf(d), d]));
  return leftOutVisits(s, to).map(({ visit: v }) => ({
    ...shown(v, sayDeviation(names.get(nameOf(v)))),
    state: 'left out' as const,
  }));
}

/** As it was written down, to be changed. */
function termsOf({ leadDays, ...row }: typeof schedule.$inferSelect): ScheduleSeries['terms'] {
  const { jobPlanId, cadence, anchor, convention, calendarId, earlyDays, lateDays, leadUnit, weekday, timeOfDay } = row;
  const { crew, technicianId, hours, absorbDays, needsYes, visitPrice, reminder } = row;
  return {
    ...{ jobPlanId, cadence, anchor, convention, calendarId, earlyDays, lateDays, leadUnit, weekday, timeOfDay },
    ...{ crew, technicianId, hours, absorbDays, needsYes, visitPrice, reminder, lead: leadDays },
  };
}

const membersOf = (db: Db, id: LineScheduleId): Promise<number> =>
  db.$count(schedule, and(eq(schedule.lineScheduleId, id), isNull(schedule.holdsTo)));

/** The visits of a schedule: those of the last year, and of the next. */
export async function readSeries(db: Db, id: ScheduleId, now: Instant, fallback: Zone): Promise<ScheduleSeries> {
  const { row, place, schedule: s, plans, written } = await loadSeries(db, id);
  const today = localDateAt(place.zone ?? fallback, now);
  const to = addDays(today, MAX_LOOK_AHEAD_DAYS);
  const { visits, nothing } = proposeVisits(s, to);
  const byName = new Map(s.deviations.map((d) => [nameOf(d), d]));
  const past = await pastVisits(db, id, addDays(today, -MAX_LOOK_AHEAD_DAYS));
  const joined = await joinedDays(db, [id]);
  const coming = visits.map((v) => {
    const own = shown(v, sayDeviation(byName.get(nameOf(v))));
    const together = joined.get(visitKey(id, v.nominal, v.part));
    return together ? { ...own, planned: together.day, joins: together.others } : own;
  });
  const all = [...past, ...coming, ...leftOut(s, to)].sort((a, b) => (a.planned < b.planned ? -1 : 1));
  return {
    id,
    version: written.version,
    asset: { id: row.schedule.assetId, tag: row.tag, model: row.model },
    agreement: { id: row.agreement.id, name: row.agreement.number },
    customer: row.agreement.customer,
    currency: row.agreement.currency,
    jobPlan: plans.get(row.schedule.jobPlanId)?.name ?? '',
    sentence: sayCadence(s.cadence),
    isSeries: s.cadence.kind !== 'since service',
    isDraft: row.agreement.stage === 'draft',
    ofLine: written.lineScheduleId && (await membersOf(db, written.lineScheduleId)),
    terms: termsOf(written),
    placeCalendarId: place.calendar?.value ?? null,
    term: s.agreementTerm,
    today,
    turns: s.turns.map((t) => ({ from: t.from, text: sayTurn(t) })),
    visits: all.slice(-SHOWN),
    nothing: nothing?.reason ?? null,
  };
}

/** What is sent names a rule by its text. */
type Sent = v.InferOutput<typeof seriesChange>;

function readChange(change: Sent): Decided<VisitChange> {
  if (change.kind !== 'from here on') return decided(change);
  const { turn } = change;
  if (turn.kind !== 'rule') return decided({ kind: 'from here on', turn });
  const read = parseRule(turn.rule);
  if (!read.ok) return refused(...read.refusals.map((r) => ({ ...r, field: 'change.turn.rule' })));
  return decided({ kind: 'from here on', turn: { kind: 'rule', from: turn.from, rule: read.value } });
}

function sayChange(change: VisitChange): string {
  switch (change.kind) {
    case 'move':
      return `visit of ${sayDate(change.nominal)} moved to ${sayDate(change.to)}${change.agreed ? ', as agreed' : ''}`;
    case 'skip':
      return `visit of ${sayDate(change.nominal)} left out: ${change.reason}`;
    case 'add':
      return `visit on ${sayDate(change.on)} added`;
    case 'work':
      return `work of the visit of ${sayDate(change.nominal)} changed`;
    case 'revert':
      return `visit of ${sayDate(change.nominal)} as the rule says again`;
    case 'from here on':
      return `from ${sayDate(change.turn.from)} on: ${change.turn.kind}`;
  }
}

async function writeDeviations(
  tx: Tx,
  id: ScheduleId,
  before: readonly Deviation[],
  after: readonly Deviation[],
  who: Person,
  now: Instant,
): Promise<void> {
  const kept = new Set(after);
  for (const { nominal, part } of before.filter((d) => !kept.has(d)))
    await tx.db
      .delete(visitChange)
      .where(and(eq(visitChange.scheduleId, id), eq(visitChange.nominal, nominal), eq(visitChange.part, part)));
  const known = new Set(before);
  const fresh = after.filter((d) => !known.has(d));
  if (fresh.length > 0)
    await tx.db.insert(visitChange).values(fresh.map((d) => ({ ...d, scheduleId: id, at: now, personId: who.id })));
}

/** Changes one visit, or it and all later ones. Refused: what the core refuses, a schedule that was changed since it was read. */
export async function changeVisits(
  database: Database,
  id: ScheduleId,
  { version, change: sent }: { readonly version: number; readonly change: Sent },
  who: Person,
  now: Instant,
): Promise<{ version: number; lapsed: LocalDate[] }> {
  const change = accept(readChange(sent));
  return database.transact(async (tx) => {
    const [held] = await tx.db
      .select({ version: schedule.version })
      .from(schedule)
      .where(eq(schedule.id, id))
      .for('update');
    if (!held) refuse('not-found', 'There is no such schedule.');
    if (held.version !== version)
      refuse('stale', 'Somebody changed this schedule meanwhile; look at it again.', 'version');
    const { schedule: s, place } = await loadSeries(tx.db, id);
    if (s.cadence.kind === 'since service')
      refuse('unsupported', 'Its visits count from the last service; there is no series to change.');
    const series = { ...s, cadence: s.cadence };
    const changed = accept(changeSeries(series, change, localDateAt(place.zone ?? who.zone, now)));
    const turns = changed.turns.map(writtenTurn);
    await tx.db
      .update(schedule)
      .set({ turns, version: version + 1 })
      .where(eq(schedule.id, id));
    await writeDeviations(tx, id, s.deviations, changed.deviations, who, now);
    await keepAudit(tx, who, 'schedule', id, sayChange(change));
    await announce(tx, contract, [{ subject: 'schedule', id }]);
    return { version: version + 1, lapsed: changed.lapsed.map((d) => d.nominal) };
  });
}
