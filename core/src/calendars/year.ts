// A year of a calendar, day by day: how long it is open on each, and why on some it is not, or otherwise.
import { addDays, fromDayNumber, MINUTE, startOfDay, toDayNumber, type LocalDate } from '../time/index.ts';
import { dayLookup, openingOn, type Calendar } from './calendar.ts';
import { workingTimeOf } from './working-time.ts';

export type YearDay = {
  readonly date: LocalDate;
  /** Minutes open between its midnights: of a night shift each day has its own part. */
  readonly minutes: number;
  /** Whether a span begins on it: what is moved to a working day may be moved to it. */
  readonly isWorkingDay: boolean;
  /** Null: as every week. */
  readonly named: { readonly kind: 'holiday' | 'closed' | 'extra'; readonly name: string } | null;
};

export type CalendarYear = {
  readonly days: readonly YearDay[];
  /** Minutes open in the whole year, and days on which it opens. */
  readonly minutes: number;
  readonly workingDays: number;
};

/** A year of a calendar as working time counts it, with changes of the clock. Source: domain, Working time. */
export function calendarYear(calendar: Calendar, year: number): CalendarYear {
  const time = workingTimeOf(calendar);
  const lookup = dayLookup(calendar);
  const first = toDayNumber(`${year}-01-01` as LocalDate);
  const last = toDayNumber(`${year + 1}-01-01` as LocalDate);
  const days = Array.from({ length: last - first }, (_, i): YearDay => {
    const date = fromDayNumber(first + i);
    const from = startOfDay(calendar.zone, date);
    const minutes = time.between(from, startOfDay(calendar.zone, addDays(date, 1))) / MINUTE;
    const { extraOpen, closed } = openingOn(calendar, date);
    const [own, shut] = [extraOpen.find((d) => d.date === date)?.name, closed.find((d) => d.date === date)];
    const named =
      own !== undefined
        ? { kind: 'extra' as const, name: own }
        : shut
          ? { kind: shut.holiday === false ? ('closed' as const) : ('holiday' as const), name: shut.name }
          : null;
    return { date, minutes, isWorkingDay: lookup.spansOn(first + i).length > 0, named };
  });
  return {
    days,
    minutes: days.reduce((sum, d) => sum + d.minutes, 0),
    workingDays: days.filter((d) => d.isWorkingDay).length,
  };
}
