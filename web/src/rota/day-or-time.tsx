// Since or until when somebody is away: a day, and a time of it where it is not the whole.
import { useState } from 'react';
import { addDays, formatInstant, parseInstant, parseLocalDate, startOfDay, type Zone } from '#core/time/index.ts';
import { DateField } from '../parts/date-field.tsx';
import { TimeField } from '../parts/time-field.tsx';
import { readWall, wallText } from '../parts/time-of-event.tsx';
import { Wire } from '../parts/wire-form.tsx';

type Typed = { readonly date: string; readonly time: string };

/** An end at midnight is the end of the day before. */
function typedOf(text: string, zone: Zone, isEnd: boolean): Typed {
  const at = parseInstant(text);
  if (at === null) return { date: '', time: '' };
  const { date, time } = wallText(at, zone);
  const day = parseLocalDate(date);
  if (time !== '00:00' || day === null) return { date, time };
  return { date: isEnd ? addDays(day, -1) : date, time: '' };
}

/** What stands for it on the wire; what cannot be read goes as it was typed, and is refused at the field. */
export function instantOf({ date, time }: Typed, zone: Zone, isEnd: boolean): string {
  const day = parseLocalDate(date);
  if (day === null) return date;
  if (time.trim() === '') return formatInstant(startOfDay(zone, isEnd ? addDays(day, 1) : day));
  const at = readWall(date, time, zone);
  return at === null ? time : formatInstant(at);
}

type Props = { readonly name: string; readonly label: string; readonly zone: Zone; readonly isEnd: boolean };

function Fields({
  value,
  change,
  error,
  label,
  zone,
  isEnd,
}: Omit<Props, 'name'> & { value: string; change: (v: string) => void; error: string | undefined }) {
  const [typed, setTyped] = useState(() => typedOf(value, zone, isEnd));
  const set = (next: Typed): void => {
    setTyped(next);
    change(instantOf(next, zone, isEnd));
  };
  return (
    <div className="grid grid-cols-[3fr_2fr] gap-2">
      <DateField label={label} value={typed.date} onChange={(date) => set({ ...typed, date })} error={error} />
      <TimeField
        label={isEnd ? 'until, if not all day' : 'from, if not all day'}
        value={typed.time}
        onChange={(time) => set({ ...typed, time })}
      />
    </div>
  );
}

export function WireDayOrTime({ name, ...rest }: Props) {
  return (
    <Wire<string> name={name}>
      {({ value, change, error }) => <Fields {...rest} value={value} change={change} error={error} />}
    </Wire>
  );
}
