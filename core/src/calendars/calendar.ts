// A calendar: zone, weekly opening spans, closed days (public holidays among them) and extra open days.
import {
  addDays,
  fromDayNumber,
  parseLocalDate,
  parseZone,
  sayDay,
  weekdayOfDayNumber,
  toDayNumber,
  type LocalDate,
  type Zone,
} from '../time/index.ts';
import { decided, refusal, refused, type Decided, type Refusal } from '../refusal.ts';

/** Minutes after local midnight; includes `from`, excludes `to`. `to` ≤ `from` passes midnight and belongs to the day it starts on. */
export type OpeningSpan = { readonly from: number; readonly to: number };

/** Closed on a public holiday unless it is said to be none: what counts as holiday hours follows from it. */
export type ClosedDay = { readonly date: LocalDate; readonly name: string; readonly holiday?: boolean };
export type ExtraOpenDay = { readonly date: LocalDate; readonly name: string; readonly spans: readonly OpeningSpan[] };

/** When it is open, as it holds over some time. */
export type Opening = {
  /** Seven lists, Monday first. */
  readonly weekly: readonly (readonly OpeningSpan[])[];
  readonly closed: readonly ClosedDay[];
  readonly extraOpen: readonly ExtraOpenDay[];
};

/** What held up to a day, that day included; the newest holds from the day after the last of them. */
export type PastOpening = Opening & { readonly heldUntil: LocalDate };

export type Calendar = Opening & {
  readonly name: string;
  readonly zone: Zone;
  /** What it was before it was changed, in any order; none: it always was as it is. */
  readonly past?: readonly PastOpening[];
};

/** The opening that holds on a day: the oldest past one that was not over yet, else the newest. */
export function openingOn(calendar: Calendar, day: LocalDate): Opening {
  const held = (calendar.past ?? []).filter((p) => day <= p.heldUntil);
  return held.reduce<PastOpening | null>((a, b) => (a === null || b.heldUntil < a.heldUntil ? b : a), null) ?? calendar;
}

/** Every closed day that holds, by the opening of its day. */
export const closedDaysOf = (calendar: Calendar): ClosedDay[] =>
  [calendar, ...(calendar.past ?? [])].flatMap((opening) =>
    opening.closed.filter((d) => openingOn(calendar, d.date) === opening),
  );

export type CalendarInput = {
  readonly name: string;
  readonly zone: string;
  readonly weekly: readonly (readonly OpeningSpan[])[];
  readonly closed: readonly { readonly date: string; readonly name: string; readonly holiday?: boolean }[];
  readonly extraOpen: readonly {
    readonly date: string;
    readonly name: string;
    readonly spans: readonly OpeningSpan[];
  }[];
};

export const ALWAYS_OPEN: readonly (readonly OpeningSpan[])[] = Array.from({ length: 7 }, () => [
  { from: 0, to: 1440 },
]);

export function weekdaysOpen(
  from: number,
  to: number,
  days: readonly number[] = [1, 2, 3, 4, 5],
): readonly (readonly OpeningSpan[])[] {
  return [1, 2, 3, 4, 5, 6, 7].map((day) => (days.includes(day) ? [{ from, to }] : []));
}

function checkSpans(spans: readonly OpeningSpan[], field: string): Refusal[] {
  return spans
    .filter(
      (s) =>
        !Number.isInteger(s.from) ||
        !Number.isInteger(s.to) ||
        s.from < 0 ||
        s.from > 1439 ||
        s.to < 0 ||
        s.to > 1440 ||
        s.from === s.to,
    )
    .map(() => refusal('invalid', 'An opening span runs from 00:00–23:59 to 00:00–24:00, and its ends differ.', field));
}

/**
 * Checks a calendar as typed. Refused: an unknown zone, impossible dates, malformed spans, a week that never opens.
 * Spans are local and `[from, to)`; overlapping ones count once (domain: Working time).
 */
export function readCalendar(input: CalendarInput): Decided<Calendar> {
  const refusals: Refusal[] = [];
  if (input.name.trim() === '') refusals.push(refusal('missing', 'Give the calendar a name.', 'name'));
  const zone = parseZone(input.zone);
  if (!zone)
    refusals.push(
      refusal('invalid', `“${input.zone}” is not a known time zone; use a name such as Europe/Lisbon.`, 'zone'),
    );
  if (input.weekly.length !== 7) refusals.push(refusal('invalid', 'A week has seven days, Monday first.', 'weekly'));
  input.weekly.forEach((spans, i) => refusals.push(...checkSpans(spans, `weekly.${i}`)));
  if (input.weekly.every((spans) => spans.length === 0)) {
    refusals.push(
      refusal('never-opens', 'The calendar opens on no day of the week; add at least one opening span.', 'weekly'),
    );
  }
  const closed = input.closed.map((day, i) => {
    const date = parseLocalDate(day.date);
    if (!date)
      refusals.push(refusal('invalid', `“${day.date}” is not a date; write it as 2026-03-17.`, `closed.${i}.date`));
    // Said only where it is none.
    return { date: date as LocalDate, name: day.name, ...(day.holiday === false && { holiday: false }) };
  });
  const extraOpen = input.extraOpen.map((day, i) => {
    const date = parseLocalDate(day.date);
    if (!date)
      refusals.push(refusal('invalid', `“${day.date}” is not a date; write it as 2026-03-17.`, `extraOpen.${i}.date`));
    refusals.push(...checkSpans(day.spans, `extraOpen.${i}.spans`));
    return { date: date as LocalDate, name: day.name, spans: day.spans };
  });
  if (refusals.length > 0 || !zone) return refused(...refusals);
  return decided({ name: input.name.trim(), zone, weekly: input.weekly, closed, extraOpen });
}

export type DayLookup = {
  /** The spans that start on the day. */
  spansOn(day: number): readonly OpeningSpan[];
};

const NO_SPANS: readonly OpeningSpan[] = [];

function lookupOf({ weekly, closed, extraOpen }: Opening): DayLookup {
  const shut = new Set(closed.map((d) => toDayNumber(d.date)));
  const extra = new Map(extraOpen.map((d) => [toDayNumber(d.date), d.spans]));
  return {
    spansOn(day) {
      const own = extra.get(day);
      if (own) return own;
      return shut.has(day) ? NO_SPANS : (weekly[weekdayOfDayNumber(day) - 1] ?? NO_SPANS);
    },
  };
}

/**
 * A day-by-day reading of a calendar: a closed day removes the spans that start on it; an extra open day brings its own. A day is read by
 * the opening that held on it, a span that passes midnight by that of the day it starts on.
 */
export function dayLookup(calendar: Calendar): DayLookup {
  const newest = lookupOf(calendar);
  const past = (calendar.past ?? [])
    .map((p) => ({ until: toDayNumber(p.heldUntil), lookup: lookupOf(p) }))
    .sort((a, b) => a.until - b.until);
  if (past.length === 0) return newest;
  return { spansOn: (day) => (past.find((p) => day <= p.until)?.lookup ?? newest).spansOn(day) };
}

/** How far back a change is held against what was. */
const LOOKED_BACK_DAYS = 1100;

const sameSpans = (a: readonly OpeningSpan[], b: readonly OpeningSpan[]): boolean =>
  a.length === b.length && a.every((s, i) => s.from === b[i]?.from && s.to === b[i]?.to);

/**
 * Decides how a changed calendar follows what it was. From a day on: what was until then stays as it was. Without one it is taken as a
 * whole, which is refused where it would change a day that is over. Refused too: another zone, a day that is not after the beginning of
 * its newest version, and new closed or open days from before it, for they would do nothing. Source: issue of Standing (calendars: versions from a date on).
 */
export function changedCalendar(
  held: Calendar,
  next: Calendar,
  { from, today }: { readonly from: LocalDate | null; readonly today: LocalDate },
): Decided<Calendar> {
  if (next.zone !== held.zone)
    return refused(
      refusal('unsupported', 'A calendar keeps its time zone; copy it, and change that of the copy.', 'zone'),
    );
  const past = held.past ?? [];
  const newest = past.reduce<LocalDate | null>((a, p) => (a === null || p.heldUntil > a ? p.heldUntil : a), null);
  const begins = from ?? (newest === null ? null : addDays(newest, 1));
  const known = new Set([...held.closed, ...held.extraOpen].map((d) => d.date));
  const lost = [...next.closed, ...next.extraOpen].find(
    (d) => begins !== null && d.date < begins && !known.has(d.date),
  );
  if (begins !== null && lost)
    return refused(
      refusal(
        'conflict',
        `${sayDay(lost.date)} lies before ${sayDay(begins)}, from which on this holds: it would do nothing.`,
        'closed',
      ),
    );
  if (from !== null) {
    if (newest !== null && from <= addDays(newest, 1))
      return refused(
        refusal(
          'conflict',
          `Its newest version holds from ${sayDay(addDays(newest, 1))}; give a later day.`,
          'holdsFrom',
        ),
      );
    const { weekly, closed, extraOpen } = held;
    return decided({ ...next, past: [...past, { weekly, closed, extraOpen, heldUntil: addDays(from, -1) }] });
  }
  const whole: Calendar = { ...next, past };
  const [was, is] = [dayLookup(held), dayLookup(whole)];
  const last = toDayNumber(today);
  for (let day = last - 1; day >= last - LOOKED_BACK_DAYS; day -= 1)
    if (!sameSpans(was.spansOn(day), is.spansOn(day)))
      return refused(
        refusal(
          'conflict',
          `That would change ${sayDay(fromDayNumber(day))}, which is over; say from which day on it holds.`,
          'holdsFrom',
        ),
      );
  return decided(whole);
}
