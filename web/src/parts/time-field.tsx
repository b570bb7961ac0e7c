// A time of day typed loosely (9:40, 940, 9h), moved by a quarter of an hour with the arrow keys.
import { useState, type KeyboardEvent } from 'react';
import { readTypedTime, sayTimeOfDay } from '#core/time/index.ts';
import { Field } from './fields.tsx';

const STEP = 15;
const DAY = 1440;

/** Hands on what was typed; once the field is left, as a clock shows it where it can be read. */
export function TimeField({
  label,
  value,
  onChange,
  error,
}: {
  label: string;
  value: string;
  onChange: (value: string) => void;
  error?: string | undefined;
}) {
  const minutes = readTypedTime(value);
  const press = (event: KeyboardEvent): void => {
    const by = event.key === 'ArrowUp' ? STEP : event.key === 'ArrowDown' ? -STEP : 0;
    if (by === 0 || minutes === null) return;
    event.preventDefault();
    // To the next whole quarter first.
    const next = by > 0 ? Math.floor(minutes / STEP) * STEP + STEP : Math.ceil(minutes / STEP) * STEP - STEP;
    onChange(sayTimeOfDay((next + DAY) % DAY));
  };
  return (
    <Field label={label} error={error}>
      {(id, described) => (
        <input
          id={id}
          className="box-field tabular-nums"
          value={value}
          onChange={(e) => onChange(e.target.value)}
          onKeyDown={press}
          onBlur={() => minutes !== null && sayTimeOfDay(minutes) !== value && onChange(sayTimeOfDay(minutes))}
          placeholder="09:40"
          autoComplete="off"
          aria-describedby={described}
          aria-invalid={error ? true : undefined}
        />
      )}
    </Field>
  );
}

/** The same over minutes after midnight; null: no time. What is no time is refused, not taken for none. */
export function MinutesField({
  label,
  value,
  change,
  error,
}: {
  label: string;
  value: number | null;
  change: (minutes: number | null) => void;
  error: string | undefined;
}) {
  const [typed, setTyped] = useState(value === null ? '' : sayTimeOfDay(value));
  const unread = typed !== '' && readTypedTime(typed) === null;
  return (
    <TimeField
      label={label}
      value={typed}
      error={unread ? 'A time such as 07:30.' : error}
      onChange={(text) => {
        setTyped(text);
        change(text === '' ? null : (readTypedTime(text) ?? NaN));
      }}
    />
  );
}
