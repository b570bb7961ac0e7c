// A first and a last day: typed, or both picked on one calendar.
import { lazy, Suspense } from 'react';
import { CalendarRange } from 'lucide-react';
import { Button, Dialog, DialogTrigger, Popover } from 'react-aria-components';
import { parseLocalDate } from '#core/time/index.ts';
import { DateField, useToday } from './date-field.tsx';

const MonthRange = lazy(() => import('./month.tsx').then((months) => ({ default: months.MonthRange })));

type Day = { readonly label: string; readonly value: string; readonly error?: string | undefined };

export function PeriodField({
  from,
  to,
  onChange,
}: {
  from: Day;
  to: Day;
  /** The days that changed; an empty text is none. */
  onChange: (days: { readonly from?: string; readonly to?: string }) => void;
}) {
  const today = useToday();
  return (
    <div className="flex items-start gap-1.5">
      <DateField className="min-w-40 flex-1" {...from} onChange={(day) => onChange({ from: day })} />
      <DialogTrigger>
        <Button className="icon-act mt-[1.6rem]" aria-label="Pick both days">
          <CalendarRange size={16} aria-hidden="true" />
        </Button>
        <Popover placement="bottom" className="floating z-50 p-3">
          <Dialog aria-label="First and last day" className="outline-none">
            <Suspense fallback={<p className="quiet">Loading…</p>}>
              <MonthRange
                from={parseLocalDate(from.value)}
                to={parseLocalDate(to.value)}
                today={today}
                onChoose={(first, last) => onChange({ from: first, to: last })}
              />
            </Suspense>
          </Dialog>
        </Popover>
      </DialogTrigger>
      <DateField className="min-w-40 flex-1" {...to} onChange={(day) => onChange({ to: day })} />
    </div>
  );
}
