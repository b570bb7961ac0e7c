// How often a schedule’s visits come: by a rule over dates, by phases of the year, or counted from the last service.
import type { JobPlanId } from '../ids.ts';
import { expandDays, nextDates, printRule, sayRule, type RecurrenceRule } from '../recurrence/index.ts';
import { refusal, type Refusal } from '../refusal.ts';
import {
  addDays,
  addMonths,
  civilOfDayNumber,
  dayNumberOfCivil,
  daysInMonth,
  fromDayNumber,
  SHORT_MONTHS,
  type DayNumber,
  type LocalDate,
} from '../time/index.ts';

export const INTERVAL_UNITS = ['day', 'week', 'month', 'year'] as const;
export type Interval = { readonly count: number; readonly unit: (typeof INTERVAL_UNITS)[number] };

/** A day of any year; the 29th of February is the 28th where there is none. */
export type MonthDay = { readonly month: number; readonly day: number };

/** A part of the year with a rule of its own. It begins anew on its first day each year and includes its last day. */
export type Phase = {
  readonly name: string;
  readonly from: MonthDay;
  /** Before `from`: in the next year. */
  readonly to: MonthDay;
  readonly rule: RecurrenceRule;
  /** Its own job plan, with the minutes that plan takes; null: the schedule’s. */
  readonly work: Work | null;
  /** Month factors of its visits; null: the schedule’s. */
  readonly factors: MonthFactors | null;
};

export type Work = { readonly jobPlanId: JobPlanId; readonly minutes: number };

/** By month, January first; a month without one counts 1. */
export type MonthFactors = readonly (number | null)[];

/** Every so many units of a meter, projected by its average daily use over the readings of the last `spanDays`. */
export type MeterLeg = { readonly meter: string; readonly every: number; readonly spanDays: number };

export type GridCadence =
  | { readonly kind: 'rule'; readonly rule: RecurrenceRule; readonly anchor: LocalDate }
  /** No visit before the anchor; each phase is anchored at its own first day. */
  | { readonly kind: 'phases'; readonly phases: readonly Phase[]; readonly anchor: LocalDate };

/** Counted from the last service: after a time, after units of a meter, or whichever comes first. */
export type ServiceCadence = {
  readonly kind: 'since service';
  /** Stands for the last service until there is one. */
  readonly since: LocalDate;
  readonly time: Interval | null;
  readonly meter: MeterLeg | null;
};

export type Cadence = GridCadence | ServiceCadence;

/** A day plus an interval; a day the target month lacks becomes its last day. */
export function addInterval(date: LocalDate, { count, unit }: Interval): LocalDate {
  switch (unit) {
    case 'day':
      return addDays(date, count);
    case 'week':
      return addDays(date, count * 7);
    case 'month':
      return addMonths(date, count);
    case 'year':
      return addMonths(date, count * 12);
  }
}

function dayInYear({ month, day }: MonthDay, year: number): DayNumber {
  return dayNumberOfCivil(year, month, Math.min(day, daysInMonth(year, month)));
}

const wraps = ({ from, to }: Phase): boolean => to.month < from.month || (to.month === from.month && to.day < from.day);

export type PhaseDay = { readonly day: DayNumber; readonly phase: Phase };

/**
 * The days of phases with from ≤ day < behind, in order. Each phase’s rule is anchored at its first day of that year.
 * Source: settled questions, Upkeep (a phase begins anew on its first day each year and includes its last).
 */
export function expandPhases(phases: readonly Phase[], from: DayNumber, behind: DayNumber): PhaseDay[] {
  const [first, last] = [civilOfDayNumber(from).year - 1, civilOfDayNumber(behind).year];
  const found: PhaseDay[] = [];
  for (const phase of phases)
    for (let year = first; year <= last; year += 1) {
      const begin = dayInYear(phase.from, year);
      const over = dayInYear(phase.to, wraps(phase) ? year + 1 : year) + 1;
      const [low, high] = [Math.max(begin, from), Math.min(over, behind)];
      if (low >= high) continue;
      const anchor = fromDayNumber(begin);
      for (const day of expandDays(phase.rule, anchor, low, high, high - low)) found.push({ day, phase });
    }
  return found.sort((a, b) => a.day - b.day);
}

const sayMonthDay = ({ month, day }: MonthDay): string => `${day} ${SHORT_MONTHS[month - 1]}`;

function daysOfPhase(phase: Phase): DayNumber[] {
  // 2028 has a 29th of February: the year in which two phases meet if they ever do.
  const begin = dayInYear(phase.from, 2028);
  const end = dayInYear(phase.to, wraps(phase) ? 2029 : 2028);
  return Array.from({ length: end - begin + 1 }, (_, i) => {
    const { month, day } = civilOfDayNumber(begin + i);
    return month * 100 + day;
  });
}

function checkPhase(phase: Phase, field: string): Refusal[] {
  const found: Refusal[] = [];
  const right = ({ month, day }: MonthDay): boolean =>
    Number.isInteger(month) &&
    month >= 1 &&
    month <= 12 &&
    Number.isInteger(day) &&
    day >= 1 &&
    day <= daysInMonth(2028, month);
  if (!right(phase.from) || !right(phase.to))
    return [
      refusal(
        'invalid',
        `${phase.name}: a phase begins and ends on days that months have, such as 1 Mar and 31 Oct.`,
        field,
      ),
    ];
  const days = expandPhases([phase], dayNumberOfCivil(2028, 1, 1), dayNumberOfCivil(2031, 1, 1));
  if (days.length === 0)
    found.push(
      refusal(
        'never-fires',
        `${phase.name}: its rule has no date from ${sayMonthDay(phase.from)} to ${sayMonthDay(phase.to)}.`,
        field,
      ),
    );
  return found;
}

/** Phases as a whole. Refused: none, days that no month has, rules that never fire, two phases that hold the same day. */
export function checkPhases(phases: readonly Phase[], field = 'cadence.phases'): Refusal[] {
  if (phases.length === 0) return [refusal('missing', 'Give at least one phase of the year.', field)];
  const found = phases.flatMap((phase, i) => checkPhase(phase, `${field}.${i}`));
  if (found.length > 0) return found;
  const holder = new Map<number, Phase>();
  for (const [i, phase] of phases.entries())
    for (const day of daysOfPhase(phase)) {
      const other = holder.get(day);
      if (other && other !== phase) {
        const text = sayMonthDay({ month: Math.floor(day / 100), day: day % 100 });
        return [
          refusal(
            'conflict',
            `${phase.name} and ${other.name} both hold ${text}; let one end before the other begins.`,
            `${field}.${i}`,
          ),
        ];
      }
      holder.set(day, phase);
    }
  return [];
}

const LONGEST: Record<Interval['unit'], number> = { day: 3653, week: 521, month: 120, year: 10 };

function checkService({ time, meter }: ServiceCadence): Refusal[] {
  const found: Refusal[] = [];
  if (!time && !meter)
    found.push(
      refusal(
        'missing',
        'Say after how long, or after how many units of a meter, the next one is due.',
        'cadence.time',
      ),
    );
  if (time && !(Number.isInteger(time.count) && time.count >= 1 && time.count <= LONGEST[time.unit]))
    found.push(refusal('invalid', `From 1 to ${LONGEST[time.unit]} ${time.unit}s.`, 'cadence.time'));
  if (meter) {
    if (meter.meter.trim() === '')
      found.push(refusal('missing', 'Name the meter that is counted.', 'cadence.meter.meter'));
    if (!(Number.isFinite(meter.every) && meter.every > 0))
      found.push(refusal('invalid', 'Every so many units: a number above 0.', 'cadence.meter.every'));
    if (!(Number.isInteger(meter.spanDays) && meter.spanDays >= 2 && meter.spanDays <= 730))
      found.push(refusal('invalid', 'Average over the readings of the last 2 to 730 days.', 'cadence.meter.spanDays'));
  }
  return found;
}

/** A cadence that can be kept. Refused: rules and phases that never fire, phases that overlap, intervals of nothing. */
export function checkCadence(cadence: Cadence): Refusal[] {
  switch (cadence.kind) {
    case 'rule':
      return nextDates(cadence.rule, cadence.anchor, cadence.anchor, 1).length > 0
        ? []
        : [
            refusal(
              'never-fires',
              'This rule never fires: no date fits it before the year 2200. Change the day, the month or the end.',
              'cadence.rule',
            ),
          ];
    case 'phases':
      return checkPhases(cadence.phases);
    case 'since service':
      return checkService(cadence);
  }
}

const sayInterval = ({ count, unit }: Interval): string => (count === 1 ? `1 ${unit}` : `${count} ${unit}s`);

/** "12 months after the last one", "Every 500 cycles or 3 months, whichever first". */
function sayService({ time, meter }: ServiceCadence): string {
  const units = meter && `${meter.every.toLocaleString('en-GB')} ${meter.meter}`;
  if (units && time) return `Every ${units} or ${sayInterval(time)}, whichever first`;
  if (units) return `Every ${units}`;
  return time ? `${sayInterval(time)} after the last one` : 'Never';
}

/** A cadence as a sentence. */
export function sayCadence(cadence: Cadence): string {
  switch (cadence.kind) {
    case 'rule':
      return sayRule(cadence.rule, cadence.anchor, printRule(cadence.rule));
    case 'since service':
      return sayService(cadence);
    case 'phases':
      return cadence.phases
        .map((p) => {
          const sentence = sayRule(p.rule, fromDayNumber(dayInYear(p.from, 2026)), printRule(p.rule));
          return `${p.name} (${sayMonthDay(p.from)} to ${sayMonthDay(p.to)}): ${sentence.charAt(0).toLowerCase()}${sentence.slice(1)}`;
        })
        .join('; ');
  }
}
