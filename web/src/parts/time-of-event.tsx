// When something happened: a date and a time of day in a named zone.
import { parseLocalDate, toInstant, toWallTime, type Instant, type Zone } from '#core/time/index.ts';
import { TextField } from './fields.tsx';
import { DateField } from './date-field.tsx';
import { sayZone } from './words.ts';

const two = (n: number): string => String(n).padStart(2, '0');
/** An instant as date and time of a zone, ready to be changed. */
export function wallText(at: Instant, zone: Zone): { date: string; time: string } {
  const wall = toWallTime(zone, at);
  return { date: wall.date, time: `${two(Math.floor(wall.minutes / 60))}:${two(wall.minutes % 60)}` };
}

/** A typed date and time in a zone; null when either cannot be read. */
export function readWall(date: string, time: string, zone: Zone): Instant | null {
  const day = parseLocalDate(date);
  const clock = /^(\d{1,2})[:.](\d{2})$/.exec(time.trim());
  if (!day || !clock || Number(clock[1]) > 23 || Number(clock[2]) > 59) return null;
  return toInstant(zone, { date: day, minutes: Number(clock[1]) * 60 + Number(clock[2]) });
}

/** Said where date and time cannot be read. */
export const UNREAD = 'Give the date and a time such as 09:40.';

export function TimeOfEvent({
  value,
  onChange,
  zone,
  error,
}: {
  value: { date: string; time: string };
  onChange: (v: { date: string; time: string }) => void;
  zone: Zone;
  error?: string | undefined;
}) {
  return (
    <div className="grid grid-cols-2 gap-3">
      <DateField label="Date" value={value.date} onChange={(date) => onChange({ ...value, date })} error={error} />
      <TextField
        label={`Time (${sayZone(zone)})`}
        value={value.time}
        onChange={(time) => onChange({ ...value, time })}
      />
    </div>
  );
}
