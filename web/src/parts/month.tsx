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

export default function Month({
  chosen,
  today,
  onChoose,
}: {
  chosen: LocalDate | null;
  today: LocalDate;
  onChoose: (day: LocalDate) => void;
}) {
  const year = Number(today.slice(0, 4));
  return (
    <DayPicker
      mode="single"
      required
      autoFocus
      locale={enGB}
      weekStartsOn={1}
      showOutsideDays
      captionLayout="dropdown"
      startMonth={new Date(year - 20, 0)}
      endMonth={new Date(year + 20, 11)}
      today={dayOf(today)}
      defaultMonth={dayOf(chosen ?? today)}
      selected={chosen ? dayOf(chosen) : undefined}
      onSelect={(day) => onChoose(dateOf(day))}
      components={{
        Chevron: ({ orientation = 'left' }) => {
          const Icon = CHEVRONS[orientation];
          return <Icon size={16} aria-hidden="true" />;
        },
      }}
      classNames={{
        root: 'month',
        months: 'relative',
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
        today: 'font-semibold underline',
        outside: 'text-ink2',
      }}
    />
  );
}
