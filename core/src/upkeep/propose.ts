// Upkeep: from maintenance schedules to proposed visits, and for every schedule that yields nothing, the reason.
import type { WorkingDays } from '../calendars/index.ts';
import { holdsOn } from '../entitlement/index.ts';
import { decided, refusal, refused, type Decided } from '../refusal.ts';
import {
  addDays,
  daysBetween,
  fromDayNumber,
  sayDate,
  toDayNumber,
  type DayNumber,
  type LocalDate,
} from '../time/index.ts';
import { addInterval, checkCadence, type Cadence, type GridCadence } from './cadence.ts';
import { endOf, expandCourse, nameOf, nextOriginals, workFrom, type Deviation, type Original } from './course.ts';
import { checkDays, leadReachOf, visitDays, type ChosenDay, type DateTerms, type VisitDays } from './dates.ts';
import { agreementYear, checkHours, factorOn, placeHours, type YearHours } from './hours.ts';
import { actionNeeded, waits, type Holding, type Schedule, type ScheduleYield, type Visit } from './schedule.ts';
import { proposeService } from './since-service.ts';

/** A schedule may not owe more visits than this in one run. */
export const MAX_VISITS_PER_SCHEDULE = 1000;
/** A run may look this far past today. */
export const MAX_LOOK_AHEAD_DAYS = 400;

export type PreviewedVisit = VisitDays & { readonly nominal: LocalDate };

/** Days of the visits to come, computed while a schedule is being written; the same arithmetic as the run. */
export function previewVisits(
  cadence: GridCadence,
  terms: DateTerms,
  workingDays: WorkingDays,
  from: LocalDate,
  howMany: number,
): PreviewedVisit[] {
  return nextOriginals(cadence, [], toDayNumber(from), howMany).flatMap(({ nominal, day }) => {
    const days = visitDays(terms, workingDays, day, null);
    return days ? [{ nominal: fromDayNumber(nominal), ...days }] : [];
  });
}

/**
 * The same for any cadence. One that counts from the last service has days only by time, and each next one counts from the due
 * date of the one before, as if all were done on it; by a meter alone it has none here, for readings say.
 */
export function previewCadence(
  cadence: Cadence,
  terms: DateTerms,
  workingDays: WorkingDays,
  from: LocalDate,
  howMany: number,
): PreviewedVisit[] {
  if (cadence.kind !== 'since service') return previewVisits(cadence, terms, workingDays, from, howMany);
  const found: PreviewedVisit[] = [];
  for (let served = cadence.since; cadence.time !== null && found.length < howMany;) {
    const nominal = laterOf(addInterval(served, cadence.time), from);
    const days = visitDays(terms, workingDays, toDayNumber(nominal), null);
    if (!days) break;
    found.push({ nominal, ...days });
    served = days.due;
  }
  return found;
}

/** The first date a cadence gives on or after a day, before any convention; null: none, or a meter alone says. */
export function firstDateFrom(cadence: Cadence, from: LocalDate): LocalDate | null {
  if (cadence.kind === 'since service') return cadence.time && laterOf(addInterval(cadence.since, cadence.time), from);
  const [first] = nextOriginals(cadence, [], toDayNumber(laterOf(cadence.anchor, from)), 1);
  return first ? fromDayNumber(first.nominal) : null;
}

const laterOf = (...dates: LocalDate[]): LocalDate => dates.reduce((a, b) => (a > b ? a : b));

function earliestEnd(...ends: (LocalDate | null)[]): LocalDate | null {
  return ends.reduce((a, b) => (a === null ? b : b === null ? a : a < b ? a : b), null);
}

const noMinutes = ({ work, cadence, hours }: Schedule): boolean =>
  hours === null &&
  (work.minutes <= 0 ||
    (cadence.kind === 'phases' && cadence.phases.some((p) => p.work !== null && p.work.minutes <= 0)));

const ENDED: Readonly<Record<NonNullable<Holding['ended']>, (from: string) => string>> = {
  swapped: (from) => `Its machine was swapped out; the one that came in has the visits from ${from}.`,
  'left line': (from) => `Its machine left the coverage line on ${from}; the line visits it no more.`,
  replaced: (from) => `Another schedule has its visits from ${from}, by the changed pattern.`,
};

function blocked(schedule: Schedule, runTo: LocalDate): ScheduleYield | null {
  const over = schedule.holds?.to ?? null;
  if (over !== null && over < runTo) {
    const ended = schedule.holds?.ended ?? 'swapped';
    return waits(ended, ENDED[ended](sayDate(addDays(over, 1))));
  }
  switch (schedule.agreementStage) {
    case 'draft':
      return actionNeeded('draft', 'The agreement is still in draft; put it in force.');
    case 'suspended':
      return actionNeeded('suspended', 'The agreement is suspended; visits resume when it is lifted.');
    case 'ended':
      return waits('ended', 'The agreement has ended.');
    case 'in force':
  }
  if (schedule.assetState === 'retired')
    return actionNeeded(
      'asset retired',
      'The asset is retired; stop the schedule or move it to the asset that took its place.',
    );
  if (schedule.assetState === 'in store')
    return actionNeeded('asset in store', 'The asset is in store; visits resume when it is installed again.');
  if (noMinutes(schedule))
    return actionNeeded(
      'zero duration',
      'The estimated duration is zero; give the job plan or the schedule a duration.',
    );
  if (schedule.lineTerms.length === 0)
    return actionNeeded(
      'not covered',
      'No coverage line of the agreement reaches the asset any more; cover it again or remove the schedule.',
    );
  if (schedule.zone === null)
    return actionNeeded('no zone', 'The asset’s place has no time zone; give one to the place or a place above it.');
  return null;
}

/** The days on which visits may exist by identity: terms, coverage and what the schedule holds. */
type Existence = {
  readonly from: LocalDate;
  readonly end: LocalDate | null;
  readonly has: (date: LocalDate) => boolean;
};

function existenceOf({ lineTerms, agreementTerm, holds = null }: Schedule, begins: LocalDate | null): Existence {
  const starts = [agreementTerm.from, lineTerms.map((t) => t.from).reduce((a, b) => (a < b ? a : b))];
  if (holds) starts.push(holds.from);
  if (begins) starts.push(begins);
  const lineEnds = lineTerms.map((t) => t.to);
  const lastEnd = lineEnds.includes(null)
    ? null
    : lineEnds.reduce((a, b) => (a !== null && b !== null && a > b ? a : b));
  const from = laterOf(...starts);
  const end = earliestEnd(agreementTerm.to, lastEnd, holds?.to ?? null);
  return {
    from,
    end,
    has: (date) => date >= from && (end === null || date <= end) && lineTerms.some((t) => holdsOn(t, date)),
  };
}

/**
 * Minutes that the year’s contracted hours give each visit, by its identifying date; each agreement year placed once. A schedule
 * that holds for a part of the year, for its machine was swapped or it was added later, has that part of the hours.
 */
function contractedMinutes(schedule: Schedule, cadence: GridCadence, hours: YearHours) {
  const existence = existenceOf({ ...schedule, holds: null }, cadence.anchor);
  const years = new Map<LocalDate, Map<LocalDate, number>>();
  return ({ nominal }: Original): number => {
    const date = fromDayNumber(nominal);
    const year = agreementYear(schedule.agreementTerm.from, date);
    let placed = years.get(year.from);
    if (!placed) {
      const of = expandCourse(cadence, schedule.turns, toDayNumber(year.from), toDayNumber(year.behind))
        .map((o) => ({ date: fromDayNumber(o.nominal), factors: o.phase?.factors ?? hours.factors }))
        .filter((o) => existence.has(o.date));
      const minutes = placeHours(
        hours.totalMinutes,
        of.map((o) => factorOn(o.factors, o.date)),
      );
      placed = new Map(of.map((o, i) => [o.date, minutes[i] as number]));
      years.set(year.from, placed);
    }
    return placed.get(date) ?? 0;
  };
}

const chosenBy = (deviation: Deviation | null): ChosenDay | null =>
  deviation === null || deviation.movedTo === null
    ? null
    : { day: toDayNumber(deviation.movedTo), agreed: deviation.agreed };

/** How far beyond raise date + lead an identifying date may lie because its due date was moved back, or its weekday changed. */
const MOVE_MARGIN_DAYS = 45;

/** Single visits of a schedule as persons changed them, by identifying date. */
type Changed = {
  readonly byDate: ReadonlyMap<LocalDate, Deviation>;
  readonly additions: readonly Deviation[];
  readonly furthest: DayNumber;
};

const NONE: Changed = { byDate: new Map(), additions: [], furthest: -Infinity };

function changedOf(deviations: readonly Deviation[]): Changed {
  if (deviations.length === 0) return NONE;
  return {
    byDate: new Map(deviations.map((d) => [d.nominal, d])),
    additions: deviations.filter((d) => d.added && d.skipped === null),
    furthest: Math.max(...deviations.map((d) => (d.movedTo === null ? -Infinity : toDayNumber(d.nominal)))),
  };
}

/** Visits that somebody left out, with why, where the rule would have them up to a date. */
export function leftOutVisits(
  { deviations, ...schedule }: Schedule,
  runTo: LocalDate,
): { readonly visit: Visit; readonly reason: string }[] {
  const reasons = new Map(deviations.flatMap((d) => (d.skipped === null ? [] : [[nameOf(d), d.skipped] as const])));
  if (reasons.size === 0) return [];
  const asRuled = { ...schedule, deviations: deviations.map((d) => ({ ...d, skipped: null })) };
  return proposeVisits(asRuled, runTo).visits.flatMap((visit) => {
    const reason = reasons.get(nameOf(visit));
    return reason === undefined ? [] : [{ visit, reason }];
  });
}

/**
 * What one schedule owes in a run to a date: every visit whose raise date is on or before `runTo` and that was never
 * raised, with an identifying date inside the agreement's term and that of a coverage line that reaches the asset; or the reason why there is none.
 * Source: domain, Recurrence (due date, window, raise date). Days are local dates of the asset's place.
 */
export function proposeVisits(schedule: Schedule, runTo: LocalDate): ScheduleYield {
  const stop = blocked(schedule, runTo);
  if (stop) return stop;
  const { cadence } = schedule;
  if (cadence.kind === 'since service') {
    const existence = existenceOf(schedule, null);
    return proposeService(schedule, cadence, existence, runTo);
  }
  return proposeSeries(schedule, cadence, runTo);
}

function proposeSeries(schedule: Schedule, cadence: GridCadence, runTo: LocalDate): ScheduleYield {
  const existence = existenceOf(schedule, cadence.anchor);
  const changed = changedOf(schedule.deviations);
  const minutesBy = schedule.hours && contractedMinutes(schedule, cadence, schedule.hours);
  const reach = toDayNumber(runTo) + leadReachOf(schedule) + MOVE_MARGIN_DAYS;
  const { end } = existence;
  const behind = Math.min(Math.max(reach, changed.furthest), end === null ? Infinity : toDayNumber(end)) + 1;
  const visits: Visit[] = [];
  let next: Visit | null = null;
  for (const original of originalsOf(schedule, cadence, changed, toDayNumber(existence.from), behind)) {
    const nominal = fromDayNumber(original.nominal);
    if (schedule.settled.has(nominal) || !existence.has(nominal)) continue;
    const deviation = changed.byDate.get(nominal) ?? null;
    if (deviation !== null && deviation.skipped !== null) continue;
    const visit = visitOf(schedule, original, nominal, deviation, minutesBy);
    if (!visit)
      return actionNeeded(
        'calendar never opens',
        'The site’s calendar has no working day within ten years; correct its opening spans.',
      );
    if (visit.raise <= runTo) visits.push(visit);
    else if (next === null || visit.planned < next.planned) next = visit;
    if (visits.length > MAX_VISITS_PER_SCHEDULE)
      return actionNeeded(
        'too many dates',
        `The rule owes more than ${MAX_VISITS_PER_SCHEDULE} visits by ${sayDate(runTo)}; make it rarer or start it later.`,
      );
  }
  return visits.length > 0 ? { visits, nothing: null } : whyNone(schedule, cadence, existence, changed, next);
}

/** The series’ visits and those a person added, in the order of their identifying dates; one that is both is one. */
function originalsOf(
  { turns }: Schedule,
  cadence: GridCadence,
  { additions }: Changed,
  from: DayNumber,
  behind: DayNumber,
): Original[] {
  const series = expandCourse(cadence, turns, from, behind);
  if (additions.length === 0) return series;
  const dates = new Set(series.map((o) => o.nominal));
  const more = additions
    .map((d) => toDayNumber(d.nominal))
    .filter((day) => day >= from && day < behind && !dates.has(day))
    .map((day): Original => ({ nominal: day, day, phase: null }));
  return [...series, ...more].sort((a, b) => a.nominal - b.nominal);
}

function visitOf(
  schedule: Schedule,
  original: Original,
  nominal: LocalDate,
  deviation: Deviation | null,
  minutesBy: ((original: Original) => number) | null,
): Visit | null {
  const added = deviation?.added ?? false;
  const chosen = chosenBy(deviation) ?? (added ? { day: original.day, agreed: true } : null);
  const days = visitDays(schedule, schedule.workingDays, original.day, chosen);
  if (!days) return null;
  const { work, turns } = schedule;
  const plan = original.phase?.work ?? work;
  const change = turns.length === 0 ? deviation : { ...workFrom(turns, nominal), ...ownWork(deviation) };
  return {
    // Spelt out: of every visit of the house one is made.
    nominal,
    part: 1,
    due: days.due,
    windowFrom: days.windowFrom,
    windowTo: days.windowTo,
    planned: days.planned,
    raise: days.raise,
    jobPlanId: plan.jobPlanId,
    minutes: change?.minutes ?? (minutesBy && !added ? minutesBy(original) : plan.minutes),
    crew: change?.crew ?? schedule.crew,
    technicianId: change?.technicianId === undefined ? schedule.technicianId : change.technicianId,
    changed: added ? 'added' : chosen ? 'moved' : null,
  };
}

/** Of a deviation only what it says of the work. */
function ownWork(deviation: Deviation | null) {
  if (deviation === null) return {};
  const { minutes, crew, technicianId } = deviation;
  return {
    ...(minutes !== undefined && { minutes }),
    ...(crew !== undefined && { crew }),
    ...(technicianId !== undefined && { technicianId }),
  };
}

function whyNone(
  schedule: Schedule,
  cadence: GridCadence,
  { from, end, has }: Existence,
  changed: Changed,
  next: Visit | null,
): ScheduleYield {
  const notYet = ({ due, raise }: VisitDays): ScheduleYield =>
    waits('not yet', `Next visit is due on ${sayDate(due)} and raised on ${sayDate(raise)}.`);
  if (next) return notYet(next);
  const { settled, turns } = schedule;
  const open = (date: LocalDate): boolean => !settled.has(date) && (changed.byDate.get(date)?.skipped ?? null) === null;
  const originals = nextOriginals(cadence, turns, toDayNumber(from), settled.size + changed.byDate.size + 1);
  const [first] = originals;
  const ended = endOf(turns, '9999-12-31' as LocalDate);
  if (!first && !ended) return actionNeeded('never fires', 'The rule never fires; correct it or its start date.');
  const coming = originals.find((o) => open(fromDayNumber(o.nominal)) && has(fromDayNumber(o.nominal)));
  const days = coming && visitDays(schedule, schedule.workingDays, coming.day, null);
  if (days) return notYet(days);
  if (ended) return waits('ended by hand', `Its visits from ${sayDate(ended.from)} on were taken out: ${ended.reason}`);
  const date = first && fromDayNumber(first.nominal);
  if (date !== undefined && end !== null && date > end)
    return actionNeeded(
      'never fires',
      `The rule fires on ${sayDate(date)} first, after the term ends on ${sayDate(end)}.`,
    );
  return waits(
    'term over',
    end ? `No further visit before the term ends on ${sayDate(end)}.` : 'The rule has no further dates.',
  );
}

/** Checks the date a run goes to: not more than 400 days past today, not before 2000. */
export function checkRunDate(runTo: LocalDate, today: LocalDate): Decided<LocalDate> {
  if (daysBetween(today, runTo) > MAX_LOOK_AHEAD_DAYS) {
    return refused(
      refusal(
        'too-large',
        `A run looks at most ${MAX_LOOK_AHEAD_DAYS} days ahead, to ${sayDate(addDays(today, MAX_LOOK_AHEAD_DAYS))}.`,
        'to',
      ),
    );
  }
  if (runTo < '2000-01-01') return refused(refusal('invalid', 'Choose a date from 2000 on.', 'to'));
  return decided(runTo);
}

/**
 * A schedule’s cadence, days and hours, checked by the editor and the server alike. Refused: what `checkDays`, `checkCadence` and
 * `checkHours` refuse; hours of a year for visits that do not come by dates.
 */
export function checkScheduleTerms(cadence: Cadence, terms: DateTerms, hours: YearHours | null): Decided<DateTerms> {
  const found = [...checkDays(terms), ...checkCadence(cadence), ...(hours ? checkHours(hours) : [])];
  if (hours && cadence.kind === 'since service')
    found.push(
      refusal('invalid', 'Hours of a year are shared by visits on dates; these count from the last service.', 'hours'),
    );
  return found.length > 0 ? refused(...found) : decided(terms);
}
