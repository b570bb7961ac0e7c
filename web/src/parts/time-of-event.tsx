// When something happened: a date and a time of day in a named zone.
import {
  parseLocalDate,
  readTypedTime,
  sayTimeOfDay,
  toInstant,
  toWallTime,
  type Instant,
  type Zone,
} from '#core/time/index.ts';
import { DateField } from './date-field.tsx';
import { TimeField } from './time-field.tsx';
import { sayZone } from './words.ts';

/** An instant as date and time of a zone, ready to be changed. */
export function wallText(at: Instant, zone: Zone): { date: string; time: string } {
  const wall = toWallTime(zone, at);
  return { date: wall.date, time: sayTimeOfDay(wall.minutes) };
}

/** A typed date and time in a zone; null when either cannot be read. */
export function readWall(date: string, time: string, zone: Zone): Instant | null {
  const day = parseLocalDate(date);
  const minutes = readTypedTime(time);
  return day === null || minutes === null ? null : toInstant(zone, { date: day, minutes });
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
      <TimeField
        label={`Time (${sayZone(zone)})`}
        value={value.time}
        onChange={(time) => onChange({ ...value, time })}
      />
    </div>
  );
}
