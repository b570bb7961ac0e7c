// A month to pick a day from, walked with the arrow keys; weeks begin on Monday.
import { DayPicker } from 'react-day-picker';
import { enGB } from 'react-day-picker/locale/en-GB';
import { ChevronDown, ChevronLeft, ChevronRight, ChevronUp } from 'lucide-react';
import type { LocalDate } from '#core/time/index.ts';

const CHEVRONS = { left: ChevronLeft, right: ChevronRight, up: ChevronUp, down: ChevronDown };

/** The library counts in the browser’s own days: noon of one, so that no change of clocks moves it. */
const dayOf = (date: LocalDate): Date => {
  const [year, month, day] = date.split('-').map(Number) as [number, number, number];
  return new Date(year, month - 1, day, 12);
};
const two = (n: number): string => String(n).padStart(2, '0');
const dateOf = (day: Date): LocalDate =>
  `${String(day.getFullYear()).padStart(4, '0')}-${two(day.getMonth() + 1)}-${two(day.getDate())}` as LocalDate;

/** How every month of the house looks and is walked. */
const looksOf = (today: LocalDate) =>
  ({
    autoFocus: true,
    locale: enGB,
    weekStartsOn: 1,
    captionLayout: 'dropdown',
    startMonth: new Date(Number(today.slice(0, 4)) - 20, 0),
    endMonth: new Date(Number(today.slice(0, 4)) + 20, 11),
    today: dayOf(today),
    components: {
      Chevron: ({ orientation = 'left' }: { orientation?: keyof typeof CHEVRONS }) => {
        const Icon = CHEVRONS[orientation];
        return <Icon size={16} aria-hidden="true" />;
      },
    },
    classNames: {
      root: 'month',
      months: 'relative flex gap-6',
      month_caption: 'flex justify-center pb-1',
      dropdowns: 'flex gap-2',
      nav: 'absolute inset-x-0 top-0 flex justify-between',
      button_previous: 'icon-act',
      button_next: 'icon-act',
      month_grid: 'border-collapse tabular-nums',
      weekday: 'quiet w-9 font-normal',
      day: 'p-0 text-center',
      day_button: 'month-day',
      selected: 'month-chosen',
      range_middle: 'month-between',
      today: 'font-semibold underline',
      outside: 'text-ink2',
    },
  }) as const;

export default function Month({
  chosen,
  today,
  onChoose,
}: {
  chosen: LocalDate | null;
  today: LocalDate;
  onChoose: (day: LocalDate) => void;
}) {
  return (
    <DayPicker
      {...looksOf(today)}
      required
      mode="single"
      showOutsideDays
      defaultMonth={dayOf(chosen ?? today)}
      selected={chosen ? dayOf(chosen) : undefined}
      onSelect={(day) => onChoose(dateOf(day))}
    />
  );
}

/** Two months side by side: with a first day chosen the next press is the last; with both, it begins anew. */
export function MonthRange({
  from,
  to,
  today,
  onChoose,
}: {
  from: LocalDate | null;
  to: LocalDate | null;
  today: LocalDate;
  onChoose: (from: LocalDate, to: LocalDate) => void;
}) {
  return (
    <DayPicker
      {...looksOf(today)}
      required
      mode="range"
      numberOfMonths={2}
      defaultMonth={dayOf(from ?? today)}
      selected={{ from: from ? dayOf(from) : undefined, to: to ? dayOf(to) : undefined }}
      resetOnSelect
      onSelect={({ from: first, to: last }) => first && onChoose(dateOf(first), dateOf(last ?? first))}
    />
  );
}
