// On which days one calendar is open and another is not: what a change of opening hours does to days as a whole.
import { addDays, type LocalDate } from '../time/index.ts';
import type { Calendar } from './calendar.ts';
import { workingDaysOf } from './working-days.ts';

/** Days from the first to the last, both included, on which somebody works by one of two calendars alone: those that close, those that open. */
export function daysDiffering(
  before: Calendar,
  after: Calendar,
  from: LocalDate,
  to: LocalDate,
): { readonly closes: readonly LocalDate[]; readonly opens: readonly LocalDate[] } {
  const [was, will] = [workingDaysOf(before), workingDaysOf(after)];
  const [closes, opens]: [LocalDate[], LocalDate[]] = [[], []];
  for (let day = from; day <= to; day = addDays(day, 1))
    if (was.isWorkingDay(day) !== will.isWorkingDay(day)) (will.isWorkingDay(day) ? opens : closes).push(day);
  return { closes, opens };
}
