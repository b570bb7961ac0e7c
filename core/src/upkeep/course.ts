// The course of a schedule: its cadence with what was changed from some visit on, and for single visits.
import type { PersonId } from '../ids.ts';
import { expandDays, nextDates, type RecurrenceRule } from '../recurrence/index.ts';
import {
  fromDayNumber,
  toDayNumber,
  weekdayOfDayNumber,
  type DayNumber,
  type LocalDate,
  type Weekday,
} from '../time/index.ts';
import { expandPhases, type GridCadence, type Phase } from './cadence.ts';

/** What was changed from a visit on, named by the date its rule gave it. Later turns go on from earlier ones. */
export type Turn = { readonly from: LocalDate } & (
  | { readonly kind: 'rule'; readonly rule: RecurrenceRule }
  /** Visits that would be on the one weekday are on the other of the same ISO week. */
  | { readonly kind: 'weekday'; readonly was: Weekday; readonly now: Weekday }
  | ({ readonly kind: 'work' } & WorkChange)
  | { readonly kind: 'ends'; readonly reason: string }
);

export type WorkChange = {
  readonly minutes?: number;
  readonly crew?: number;
  readonly technicianId?: PersonId | null;
};

/** A visit is identified by (schedule, nominal date, part): the date its rule gave it, whatever became of it. */
export type VisitName = { readonly nominal: LocalDate; readonly part: number };

/** What a person decided for one visit. */
export type Deviation = VisitName & {
  /** It is not the rule’s but a person’s. */
  readonly added: boolean;
  readonly movedTo: LocalDate | null;
  /** The day was agreed with the customer: due date and window move with it. */
  readonly agreed: boolean;
  /** Why it is left out. */
  readonly skipped: string | null;
} & WorkChange;

export const nameOf = ({ nominal, part }: VisitName): string => `${nominal}/${part}`;

/** One visit of the series: the date that identifies it, and the day it comes to by weekday changes. */
export type Original = { readonly nominal: DayNumber; readonly day: DayNumber; readonly phase: Phase | null };

type Stretch = { readonly from: DayNumber; readonly behind: DayNumber };

const whole = ({ from, behind }: Stretch): number => Math.max(1, behind - from);

function daysOf(cadence: GridCadence, stretch: Stretch): Original[] {
  if (cadence.kind === 'phases')
    return expandPhases(cadence.phases, stretch.from, stretch.behind).map(({ day, phase }) => ({
      nominal: day,
      day,
      phase,
    }));
  // At most one date a day: the stretch itself bounds the expansion.
  return expandDays(cadence.rule, cadence.anchor, stretch.from, stretch.behind, whole(stretch)).map((day) => ({
    nominal: day,
    day,
    phase: null,
  }));
}

const toWeekday = (day: DayNumber, weekday: Weekday): DayNumber => day + weekday - weekdayOfDayNumber(day);

function shifted(original: Original, turns: readonly Turn[]): Original {
  let { day } = original;
  for (const turn of turns)
    if (turn.kind === 'weekday' && toDayNumber(turn.from) <= original.nominal && weekdayOfDayNumber(day) === turn.was)
      day = toWeekday(day, turn.now);
  return day === original.day ? original : { ...original, day };
}

/** Parts of the course in which one rule holds: from a day to before another, with the turns made since it began to hold. */
function segmentsOf(cadence: GridCadence, turns: readonly Turn[]) {
  const segments: { from: number; behind: number; cadence: GridCadence | null; turns: Turn[] }[] = [
    { from: -Infinity, behind: Infinity, cadence, turns: [] },
  ];
  for (const turn of [...turns].sort((a, b) => (a.from < b.from ? -1 : a.from > b.from ? 1 : 0))) {
    const open = segments[segments.length - 1] as (typeof segments)[number];
    if (turn.kind !== 'rule' && turn.kind !== 'ends') {
      open.turns.push(turn);
      continue;
    }
    const from = toDayNumber(turn.from);
    open.behind = from;
    const next = turn.kind === 'ends' ? null : ({ kind: 'rule', rule: turn.rule, anchor: turn.from } as const);
    segments.push({ from, behind: Infinity, cadence: next, turns: [] });
  }
  return segments;
}

/**
 * The visits of a series whose identifying dates lie in [from, behind), in the order of those dates. A rule changed from a visit
 * on is anchored at it with its own COUNT; a changed weekday keeps each visit in its ISO week.
 * Source: settled questions, One visit or from here on; RFC 5545 RECURRENCE-ID.
 */
export function expandCourse(
  cadence: GridCadence,
  turns: readonly Turn[],
  from: DayNumber,
  behind: DayNumber,
): Original[] {
  if (turns.length === 0) return daysOf(cadence, { from, behind });
  const found: Original[] = [];
  for (const s of segmentsOf(cadence, turns)) {
    const stretch = { from: Math.max(from, s.from), behind: Math.min(behind, s.behind) };
    if (s.cadence === null || stretch.from >= stretch.behind) continue;
    for (const original of daysOf(s.cadence, stretch)) found.push(shifted(original, s.turns));
  }
  return found;
}

/** Behind it no rule has dates. */
const LAST_DAY = toDayNumber('2199-12-31' as LocalDate);
const FIRST_LOOK_DAYS = 800;

/** The next visits of a series from a day on, at most so many; fewer where it ends before 2200. */
export function nextOriginals(
  cadence: GridCadence,
  turns: readonly Turn[],
  from: DayNumber,
  howMany: number,
): Original[] {
  if (cadence.kind === 'rule' && turns.length === 0)
    return nextDates(cadence.rule, cadence.anchor, fromDayNumber(from), howMany).map((date) => {
      const day = toDayNumber(date);
      return { nominal: day, day, phase: null };
    });
  const found: Original[] = [];
  for (let [begin, length] = [from, FIRST_LOOK_DAYS]; begin <= LAST_DAY && found.length < howMany; length *= 2) {
    const behind = Math.min(begin + length, LAST_DAY + 1);
    found.push(...expandCourse(cadence, turns, begin, behind));
    begin = behind;
  }
  return found.slice(0, howMany);
}

/** What the turns say of the work of the visit with this identifying date. */
export function workFrom(turns: readonly Turn[], nominal: LocalDate): WorkChange {
  let change: WorkChange = {};
  for (const turn of turns)
    if (turn.kind === 'work') {
      const { kind: _, from, ...more } = turn;
      if (from <= nominal) change = { ...change, ...more };
    }
  return change;
}

/** Why the series ends before a date, if a person ended it there. */
export function endOf(turns: readonly Turn[], on: LocalDate): (Turn & { kind: 'ends' }) | null {
  let end: (Turn & { kind: 'ends' }) | null = null;
  for (const turn of turns)
    if (turn.from <= on) {
      if (turn.kind === 'ends') end = turn;
      if (turn.kind === 'rule') end = null;
    }
  return end;
}

/** Deviations of visits that the course no longer gives: they lapse, and are named. Additions and left-out series’ ends aside. */
export function lapsedDeviations(
  cadence: GridCadence,
  turns: readonly Turn[],
  deviations: readonly Deviation[],
): Deviation[] {
  return deviations.filter((d) => {
    if (d.added) return false;
    const day = toDayNumber(d.nominal);
    return expandCourse(cadence, turns, day, day + 1).length === 0;
  });
}
