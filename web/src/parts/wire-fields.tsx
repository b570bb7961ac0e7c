// The fields of a wire form, each bound to a name of its contract's body.
import { useState, type ReactNode } from 'react';

import { formatInstant, parseInstant, type Zone } from '#core/time/index.ts';
import { DateField } from './date-field.tsx';
import { Field, NumberField, SelectField, TextField, Ticks } from './fields.tsx';
import { MoneyField } from './money-field.tsx';
import { PeriodField } from './period-field.tsx';
import { MinutesField } from './time-field.tsx';
import { readWall, TimeOfEvent, UNREAD, wallText } from './time-of-event.tsx';
import { useBound } from './wire-form.tsx';

type Shared = { readonly name: string; readonly label: string; readonly hint?: ReactNode; readonly className?: string };

/** `empty` stands for no text at all, as the contract has it: nothing written, null, or left out. */
export function WireText({
  name,
  ...given
}: Shared & {
  readonly type?: string;
  readonly autoComplete?: string;
  readonly autoFocus?: boolean;
  readonly empty?: '' | null | undefined;
}) {
  const { value, change, left, error } = useBound(name);
  const { empty, ...rest } = { empty: '' as const, ...given };
  return (
    <TextField
      {...rest}
      value={(value as string | null | undefined) ?? ''}
      onChange={(text) => change(text === '' ? empty : text)}
      onBlur={left}
      error={error}
    />
  );
}

export function WireLongText({
  name,
  rows = 3,
  empty = '',
  ...rest
}: Shared & { readonly rows?: number; readonly empty?: '' | null }) {
  const { value, change, left, error } = useBound(name);
  return (
    <Field {...rest} error={error}>
      {(id, described) => (
        <textarea
          id={id}
          rows={rows}
          className="box-area"
          value={(value as string | null) ?? ''}
          onChange={(e) => change(e.target.value === '' ? empty : e.target.value)}
          onBlur={left}
          aria-describedby={described}
          aria-invalid={error ? true : undefined}
        />
      )}
    </Field>
  );
}

/** `per` of what is kept make one of what is typed: minutes behind hours, cents behind euros. Empty is `empty`. */
export function WireNumber({
  name,
  per = 1,
  empty = NaN,
  ...rest
}: Shared & {
  readonly per?: number;
  readonly empty?: null | number;
  readonly min?: number;
  readonly max?: number;
  readonly step?: string;
}) {
  const { value, change, error } = useBound(name);
  return (
    <NumberField
      {...rest}
      value={typeof value === 'number' ? value / per : NaN}
      onChange={(n) => change(Number.isNaN(n) ? empty : per === 1 ? n : Math.round(n * per))}
      error={error}
    />
  );
}

/** What stands for a choice in the page. */
const keyOf = (value: string | number | boolean | null): string => String(value ?? '');

/** Choices of whatever the contract has there: texts, numbers, null for none. */
export function WireSelect<T extends string | number | boolean | null>({
  name,
  options,
  onChosen,
  otherwise,
  ...rest
}: Shared & {
  readonly options: readonly (readonly [value: T, text: string])[];
  /** What it is as long as nothing was chosen. */
  readonly otherwise?: T;
  /** What else follows from the choice. */
  readonly onChosen?: (value: T) => void;
}) {
  const { value, change, error } = useBound(name);
  return (
    <SelectField
      {...rest}
      value={keyOf((value === undefined ? otherwise : value) as T)}
      onChange={(text) => {
        const found = options.find(([v]) => keyOf(v) === text);
        if (!found) return;
        change(found[0]);
        onChosen?.(found[0]);
      }}
      options={options.map(([v, text]) => [keyOf(v), text] as const)}
      error={error}
    />
  );
}

export function WireTick({ name, label, className = 'pt-4' }: { name: string; label: string; className?: string }) {
  const { value, change, left } = useBound(name);
  return (
    <label className={`flex items-center gap-2 ${className}`}>
      <input
        type="checkbox"
        className="box-tick"
        checked={Boolean(value)}
        onChange={(e) => change(e.target.checked)}
        onBlur={left}
      />
      {label}
    </label>
  );
}

export function WireTicks<T extends string>({
  name,
  label,
  values,
}: {
  name: string;
  label: string;
  values: readonly T[];
}) {
  const { value, change, error } = useBound(name);
  return (
    <div>
      <Ticks label={label} values={values} chosen={value as T[]} onChange={change} />
      {error && <p className="text-missed">✕ {error}</p>}
    </div>
  );
}

/** A date as it travels, or what was typed where it cannot be read; `empty` where nothing is. */
export function WireDate({ name, empty = '', ...rest }: Shared & { readonly empty?: '' | null }) {
  const { value, change, error } = useBound(name);
  return (
    <DateField
      {...rest}
      value={(value as string | null) ?? ''}
      onChange={(date) => change(date === '' ? empty : date)}
      error={error}
    />
  );
}

/** A first and a last day under two names of the form; no last day is `empty`. */
export function WirePeriod({
  from,
  to,
  empty = null,
}: {
  readonly from: { readonly name: string; readonly label: string };
  readonly to: { readonly name: string; readonly label: string };
  readonly empty?: '' | null;
}) {
  const [first, last] = [useBound(from.name), useBound(to.name)];
  const shown = ({ value }: { value: unknown }): string => (value as string | null) ?? '';
  return (
    <PeriodField
      from={{ label: from.label, value: shown(first), error: first.error }}
      to={{ label: to.label, value: shown(last), error: last.error }}
      onChange={(days) => {
        if (days.from !== undefined) first.change(days.from);
        if (days.to !== undefined) last.change(days.to === '' ? empty : days.to);
      }}
    />
  );
}

export function WireMoney({ name, ...rest }: { name: string; label: string; currency: string; hint?: string }) {
  const { value, change, error } = useBound(name);
  return <MoneyField {...rest} value={(value ?? null) as number | null} onChange={change} error={error} />;
}

/** When something happened, kept as an instant in text; what cannot be read as date and time is none, and said. */
export function WireMoment({ name, zone }: { readonly name: string; readonly zone: Zone }) {
  const { value, change, error } = useBound(name);
  const [typed, setTyped] = useState(() => {
    const at = parseInstant(String(value));
    return at === null ? { date: '', time: '' } : wallText(at, zone);
  });
  const unread = readWall(typed.date, typed.time, zone) === null;
  return (
    <TimeOfEvent
      value={typed}
      zone={zone}
      error={unread ? UNREAD : error}
      onChange={(next) => {
        setTyped(next);
        const at = readWall(next.date, next.time, zone);
        change(at === null ? '' : formatInstant(at));
      }}
    />
  );
}

/** A time of the day in minutes after midnight, null for none. */
export function WireTime({ name, label }: { name: string; label: string }) {
  const { value, change, error } = useBound(name);
  return <MinutesField label={label} value={value as number | null} change={change} error={error} />;
}
