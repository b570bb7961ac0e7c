// A calendar: zone, weekly opening spans, closed days (public holidays among them) and extra open days.
import {
  parseLocalDate,
  parseZone,
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

export type Calendar = {
  readonly name: string;
  readonly zone: Zone;
  /** Seven lists, Monday first. */
  readonly weekly: readonly (readonly OpeningSpan[])[];
  readonly closed: readonly ClosedDay[];
  readonly extraOpen: readonly ExtraOpenDay[];
};

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

/** A day-by-day reading of a calendar: a closed day removes the spans that start on it; an extra open day brings its own. */
export function dayLookup(calendar: Calendar): DayLookup {
  const closed = new Set(calendar.closed.map((d) => toDayNumber(d.date)));
  const extra = new Map(calendar.extraOpen.map((d) => [toDayNumber(d.date), d.spans]));
  return {
    spansOn(day) {
      const own = extra.get(day);
      if (own) return own;
      return closed.has(day) ? NO_SPANS : (calendar.weekly[weekdayOfDayNumber(day) - 1] ?? NO_SPANS);
    },
  };
}
