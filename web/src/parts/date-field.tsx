// A date typed loosely or picked from a month; a time of day beside it.
import { lazy, Suspense, useState, type ReactNode } from 'react';
import { CalendarDays } from 'lucide-react';
import { Button, Dialog, DialogTrigger, Popover } from 'react-aria-components';
import {
  instant,
  localDateAt,
  parseLocalDate,
  readTypedDate,
  sayDate,
  type LocalDate,
  type Zone,
} from '#core/time/index.ts';
import { server } from '../shell/store.ts';
import { Field } from './fields.tsx';

const Month = lazy(() => import('./month.tsx'));

/** Today where the reader is. */
export function useToday(): LocalDate {
  const { data: session } = server.useReadSessionQuery();
  return localDateAt((session?.person?.zone ?? 'UTC') as Zone, session?.now ?? instant(0));
}

/** The picked day closes the month; typing stays possible beside it. */
function Picker({
  known,
  today,
  onPick,
}: {
  known: LocalDate | null;
  today: LocalDate;
  onPick: (day: LocalDate) => void;
}) {
  return (
    <DialogTrigger>
      <Button
        className="absolute top-0 right-0 flex h-full w-8 items-center justify-center"
        aria-label="Open the calendar"
      >
        <CalendarDays size={16} aria-hidden="true" />
      </Button>
      <Popover placement="bottom end" className="floating z-50 p-3">
        <Dialog aria-label="Calendar" className="outline-none">
          {({ close }) => (
            <Suspense fallback={<p className="quiet">Loading…</p>}>
              <Month
                chosen={known}
                today={today}
                onChoose={(day) => {
                  onPick(day);
                  close();
                }}
              />
            </Suspense>
          )}
        </Dialog>
      </Popover>
    </DialogTrigger>
  );
}

/** Hands on ISO text, or what was typed when that cannot be read, so that nothing is lost. */
export function DateField({
  label,
  value,
  onChange,
  hint,
  error,
  className,
}: {
  label: string;
  value: string;
  onChange: (value: string) => void;
  hint?: ReactNode;
  error?: string | undefined;
  className?: string;
}) {
  const today = useToday();
  const [typing, setTyping] = useState<string | null>(null);
  const known = parseLocalDate(value);
  const change = (text: string): void => {
    setTyping(text);
    onChange(text.trim() === '' ? '' : (readTypedDate(text, today) ?? text));
  };
  const understood = typing !== null && known && typing !== sayDate(known) ? sayDate(known) : null;
  return (
    <Field
      label={label}
      hint={hint}
      error={error ?? (value !== '' && !known && typing === null ? 'Write it as 17 Mar 2026 or 17/3/2026.' : undefined)}
      {...(className && { className })}
    >
      {(id, described) => (
        <span className="relative block">
          <input
            id={id}
            className="box-field pr-8 tabular-nums"
            value={typing ?? (known ? sayDate(known) : value)}
            onChange={(e) => change(e.target.value)}
            onBlur={() => setTyping(null)}
            aria-describedby={described}
            aria-invalid={error ? true : undefined}
            placeholder="17 Mar 2026"
          />
          {/* Over what is below, so that nothing moves: what was understood so far. */}
          {understood && (
            <span
              aria-live="polite"
              className="absolute right-0 -bottom-[1.35rem] z-10 border border-hairline bg-base-100 px-1 text-[0.87rem]"
            >
              {understood}
            </span>
          )}
          <Picker
            known={known}
            today={today}
            onPick={(day) => {
              setTyping(null);
              onChange(day);
            }}
          />
        </span>
      )}
    </Field>
  );
}
