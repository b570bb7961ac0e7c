// Upkeep: from maintenance schedules to proposed visits, and for every schedule that yields nothing, the reason.
import type { WorkingDayConvention, WorkingDays } from '../calendars/index.ts';
import { holdsOn, type AgreementStage, type Term } from '../entitlement/index.ts';
import type { ScheduleId } from '../ids.ts';
import { expandDays, nextDates, type RecurrenceRule } from '../recurrence/index.ts';
import { decided, refusal, refused, type Decided } from '../refusal.ts';
import { addDays, daysBetween, fromDayNumber, sayDate, toDayNumber, type LocalDate, type Zone } from '../time/index.ts';

export type LeadUnit = 'calendar days' | 'working days';

export type DateTerms = {
  readonly rule: RecurrenceRule;
  readonly anchor: LocalDate;
  readonly convention: WorkingDayConvention;
  /** Days before and after the due date at which the visit still counts as in time. */
  readonly earlyDays: number;
  readonly lateDays: number;
  readonly lead: number;
  readonly leadUnit: LeadUnit;
};

export type Schedule = DateTerms & {
  readonly id: ScheduleId;
  /** Estimated duration in minutes. */
  readonly minutes: number;
  readonly agreementStage: AgreementStage;
  readonly agreementTerm: Term;
  /** Terms of the agreement’s coverage lines that reach the asset, amended ones one after the other. */
  readonly lineTerms: readonly Term[];
  readonly assetState: 'in service' | 'out of service' | 'in store' | 'retired';
  readonly zone: Zone | null;
  readonly workingDays: WorkingDays;
  /** Nominal dates of visits that were raised, declined or absorbed before. */
  readonly settled: ReadonlySet<LocalDate>;
  /** Nominal dates it holds for, where a machine was swapped out or in; both days included. */
  readonly holds?: Term | null;
};

/** A visit is identified by (schedule, nominal date, part). */
export type Visit = {
  readonly nominal: LocalDate;
  readonly due: LocalDate;
  readonly windowFrom: LocalDate;
  /** Includes this day. */
  readonly windowTo: LocalDate;
  readonly raise: LocalDate;
};

export type YieldsNothing = {
  /** `needs action`: nothing will come until somebody acts. `waits`: the next visit is not due yet, or the agreement is over. */
  readonly kind: 'needs action' | 'waits';
  readonly code:
    | 'draft'
    | 'suspended'
    | 'not covered'
    | 'ended'
    | 'zero duration'
    | 'asset retired'
    | 'asset in store'
    | 'no zone'
    | 'calendar never opens'
    | 'never fires'
    | 'too many dates'
    | 'term over'
    | 'swapped'
    | 'not yet';
  readonly reason: string;
};

export type ScheduleYield = { readonly visits: readonly Visit[]; readonly nothing: YieldsNothing | null };

/** A schedule may not owe more visits than this in one run. */
export const MAX_VISITS_PER_SCHEDULE = 1000;
/** A run may look this far past today. */
export const MAX_LOOK_AHEAD_DAYS = 400;

function visitOf(terms: DateTerms, workingDays: WorkingDays, nominal: LocalDate): Visit | null {
  const due = workingDays.move(nominal, terms.convention);
  if (due === null) return null;
  const raise =
    terms.leadUnit === 'working days' && terms.lead > 0
      ? workingDays.addWorkingDays(due, -terms.lead)
      : addDays(due, -terms.lead);
  if (raise === null) return null;
  return { nominal, due, windowFrom: addDays(due, -terms.earlyDays), windowTo: addDays(due, terms.lateDays), raise };
}

/** Visits of dates, computed while a schedule is being written; the same arithmetic as the run. */
export function previewVisits(terms: DateTerms, workingDays: WorkingDays, from: LocalDate, howMany: number): Visit[] {
  return nextDates(terms.rule, terms.anchor, from, howMany).flatMap(
    (nominal) => visitOf(terms, workingDays, nominal) ?? [],
  );
}

function laterOf(...dates: LocalDate[]): LocalDate {
  return dates.reduce((a, b) => (a > b ? a : b));
}

function earliestEnd(...ends: (LocalDate | null)[]): LocalDate | null {
  return ends.reduce((a, b) => (a === null ? b : b === null ? a : a < b ? a : b), null);
}

const actionNeeded = (code: YieldsNothing['code'], reason: string): ScheduleYield => ({
  visits: [],
  nothing: { kind: 'needs action', code, reason },
});

function blocked(schedule: Schedule, runTo: LocalDate): ScheduleYield | null {
  const over = schedule.holds?.to ?? null;
  if (over !== null && over < runTo) {
    const reason = `Its machine was swapped out; the one that came in has the visits from ${sayDate(addDays(over, 1))}.`;
    return { visits: [], nothing: { kind: 'waits', code: 'swapped', reason } };
  }
  switch (schedule.agreementStage) {
    case 'draft':
      return actionNeeded('draft', 'The agreement is still in draft; put it in force.');
    case 'suspended':
      return actionNeeded('suspended', 'The agreement is suspended; visits resume when it is lifted.');
    case 'ended':
      return { visits: [], nothing: { kind: 'waits', code: 'ended', reason: 'The agreement has ended.' } };
    case 'in force':
  }
  if (schedule.assetState === 'retired')
    return actionNeeded(
      'asset retired',
      'The asset is retired; stop the schedule or move it to the asset that took its place.',
    );
  if (schedule.assetState === 'in store')
    return actionNeeded('asset in store', 'The asset is in store; visits resume when it is installed again.');
  if (schedule.minutes <= 0)
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

/** How far beyond raise date + lead a nominal date may lie because its due date was moved back. */
const MOVE_MARGIN_DAYS = 45;

/**
 * What one schedule owes in a run to a date: every visit whose raise date is on or before `runTo` and that was never
 * raised, with a nominal date inside the agreement's term and that of a coverage line that reaches the asset; or the reason why there is none.
 * Source: domain, Recurrence (due date, window, raise date). Days are local dates of the asset's place.
 */
export function proposeVisits(schedule: Schedule, runTo: LocalDate): ScheduleYield {
  const stop = blocked(schedule, runTo);
  if (stop) return stop;
  const { lineTerms } = schedule;
  const begin = lineTerms.map((t) => t.from).reduce((a, b) => (a < b ? a : b));
  const lineEnds = lineTerms.map((t) => t.to);
  const lastEnd = lineEnds.includes(null)
    ? null
    : lineEnds.reduce((a, b) => (a !== null && b !== null && a > b ? a : b));
  const { holds = null } = schedule;
  const from = laterOf(schedule.anchor, schedule.agreementTerm.from, begin, holds?.from ?? schedule.anchor);
  const end = earliestEnd(schedule.agreementTerm.to, lastEnd, holds?.to ?? null);
  const leadReach = schedule.leadUnit === 'working days' ? schedule.lead * 3 + 30 : schedule.lead;
  const reach = addDays(runTo, leadReach + MOVE_MARGIN_DAYS);
  const until = end !== null && end < reach ? end : reach;
  // At most one date a day: the stretch itself bounds the expansion. What counts against the limit is what is still owed.
  const [first, behind] = [toDayNumber(from), toDayNumber(until) + 1];
  const days = expandDays(schedule.rule, schedule.anchor, first, behind, Math.max(1, behind - first));
  const visits: Visit[] = [];
  let next: Visit | null = null;
  for (const day of days) {
    const nominal = fromDayNumber(day);
    if (schedule.settled.has(nominal) || !lineTerms.some((t) => holdsOn(t, nominal))) continue;
    const visit = visitOf(schedule, schedule.workingDays, nominal);
    if (!visit)
      return actionNeeded(
        'calendar never opens',
        'The site’s calendar has no working day within ten years; correct its opening spans.',
      );
    if (visit.raise <= runTo) visits.push(visit);
    else next ??= visit;
    if (visits.length > MAX_VISITS_PER_SCHEDULE)
      return actionNeeded(
        'too many dates',
        `The rule owes more than ${MAX_VISITS_PER_SCHEDULE} visits by ${sayDate(runTo)}; make it rarer or start it later.`,
      );
  }
  return visits.length > 0 ? { visits, nothing: null } : { visits, nothing: whyNone(schedule, from, end, next) };
}

function whyNone(schedule: Schedule, from: LocalDate, end: LocalDate | null, next: Visit | null): YieldsNothing {
  const waits = (visit: Visit): YieldsNothing => ({
    kind: 'waits',
    code: 'not yet',
    reason: `Next visit is due on ${sayDate(visit.due)} and raised on ${sayDate(visit.raise)}.`,
  });
  if (next) return waits(next);
  const dates = nextDates(schedule.rule, schedule.anchor, from, schedule.settled.size + 1);
  if (dates.length === 0)
    return { kind: 'needs action', code: 'never fires', reason: 'The rule never fires; correct it or its start date.' };
  const open = dates.find((d) => !schedule.settled.has(d));
  if (open && (end === null || open <= end)) {
    const visit = visitOf(schedule, schedule.workingDays, open);
    if (visit) return waits(visit);
  }
  if (dates[0] && end !== null && dates[0] > end) {
    return {
      kind: 'needs action',
      code: 'never fires',
      reason: `The rule fires on ${sayDate(dates[0])} first, after the term ends on ${sayDate(end)}.`,
    };
  }
  return {
    kind: 'waits',
    code: 'term over',
    reason: end ? `No further visit before the term ends on ${sayDate(end)}.` : 'The rule has no further dates.',
  };
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

/** Limits of a schedule's days, shared by the editor and the server. Refused: negative or overlong windows and leads, rules that never fire. */
export function checkDateTerms(terms: DateTerms): Decided<DateTerms> {
  const found = [];
  const whole = (n: number, high: number): boolean => Number.isInteger(n) && n >= 0 && n <= high;
  if (!whole(terms.earlyDays, 180))
    found.push(refusal('invalid', 'Days early: a whole number from 0 to 180.', 'earlyDays'));
  if (!whole(terms.lateDays, 180))
    found.push(refusal('invalid', 'Days late: a whole number from 0 to 180.', 'lateDays'));
  if (!whole(terms.lead, 180))
    found.push(refusal('invalid', 'Lead time: a whole number of days from 0 to 180.', 'lead'));
  if (nextDates(terms.rule, terms.anchor, terms.anchor, 1).length === 0) {
    found.push(
      refusal(
        'never-fires',
        'This rule never fires: no date fits it before the year 2200. Change the day, the month or the end.',
        'rule',
      ),
    );
  }
  return found.length > 0 ? refused(...found) : decided(terms);
}
