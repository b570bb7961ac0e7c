// Form parts: a labelled field with its hint and its error, and a submit that puts refusals at their fields.
import { useCallback, useId, useState, type ReactNode } from 'react';
import type { Problem } from '#api/shapes.ts';
import { SaidProblem } from './problem.tsx';

type Control = (id: string, described: string | undefined) => ReactNode;

/** A refusal in words; the asset it names can be opened beside what was typed. */
function Said({ text }: { text: string }) {
  const [before, address, after] = text.split(/ ?\((\/assets\/\d+)\)/);
  return (
    <>
      ✕ {before}
      {address !== undefined && (
        <>
          {' '}
          <a className="link-ink" href={address} target="_blank" rel="noreferrer">
            open it
          </a>
          {after}
        </>
      )}
    </>
  );
}

export function Field({
  label,
  hint,
  error,
  children,
  className = '',
}: {
  label: string;
  hint?: ReactNode;
  error?: string | undefined;
  children: Control;
  className?: string;
}) {
  const id = useId();
  const described = error || hint ? `${id}-more` : undefined;
  return (
    <div className={className}>
      <label htmlFor={id} className="quiet block pb-0.5">
        {label}
      </label>
      {children(id, described)}
      {(error || hint) && (
        <p id={described} className={error ? 'pt-0.5 text-[0.87rem] text-missed' : 'quiet pt-0.5'}>
          {error ? <Said text={error} /> : hint}
        </p>
      )}
    </div>
  );
}

type TextProps = {
  label: string;
  value: string;
  onChange: (value: string) => void;
  onBlur?: () => void;
  hint?: ReactNode;
  error?: string | undefined;
  type?: string;
  className?: string;
  placeholder?: string;
  autoComplete?: string;
  autoFocus?: boolean;
};

export function TextField({ label, value, onChange, hint, error, type = 'text', className, ...rest }: TextProps) {
  return (
    <Field label={label} hint={hint} error={error} {...(className && { className })}>
      {(id, described) => (
        <input
          id={id}
          type={type}
          className="box-field"
          value={value}
          onChange={(e) => onChange(e.target.value)}
          aria-describedby={described}
          aria-invalid={error ? true : undefined}
          {...rest}
        />
      )}
    </Field>
  );
}

export function NumberField({
  label,
  value,
  onChange,
  hint,
  error,
  className,
  min,
  max,
  step,
}: {
  label: string;
  value: number;
  onChange: (value: number) => void;
  hint?: ReactNode;
  error?: string | undefined;
  className?: string;
  min?: number;
  max?: number;
  step?: string;
}) {
  return (
    <Field label={label} hint={hint} error={error} {...(className && { className })}>
      {(id, described) => (
        <input
          id={id}
          type="number"
          className="box-field text-right tabular-nums"
          value={Number.isNaN(value) ? '' : value}
          min={min}
          max={max}
          step={step}
          onChange={(e) => onChange(e.target.valueAsNumber)}
          aria-describedby={described}
          aria-invalid={error ? true : undefined}
        />
      )}
    </Field>
  );
}

/** A whole number that is always one: what is typed is handed on once it is whole and within its bounds. */
export function CountField({
  label,
  value,
  onChange,
  min,
  max,
}: {
  label: string;
  value: number;
  onChange: (value: number) => void;
  min: number;
  max: number;
}) {
  const [typing, setTyping] = useState<string | null>(null);
  return (
    <Field
      label={label}
      error={typing !== null && !isCount(typing, min, max) ? `A whole number from ${min} to ${max}.` : undefined}
    >
      {(id, described) => (
        <input
          id={id}
          inputMode="numeric"
          className="box-field text-right tabular-nums"
          value={typing ?? String(value)}
          onChange={(e) => {
            setTyping(e.target.value);
            if (isCount(e.target.value, min, max)) onChange(Number(e.target.value));
          }}
          onBlur={() => setTyping(null)}
          aria-describedby={described}
        />
      )}
    </Field>
  );
}

const isCount = (typed: string, min: number, max: number): boolean =>
  /^\d{1,6}$/.test(typed.trim()) && Number(typed) >= min && Number(typed) <= max;

/** Words separated by commas; what is between them is handed on without the blanks around it. */
export function WordsField({
  label,
  value,
  onChange,
  hint,
  error,
}: {
  label: string;
  value: readonly string[];
  onChange: (words: string[]) => void;
  hint?: ReactNode;
  error?: string | undefined;
}) {
  const [typing, setTyping] = useState<string | null>(null);
  return (
    <TextField
      label={label}
      value={typing ?? value.join(', ')}
      onChange={(text) => {
        setTyping(text);
        onChange(
          text
            .split(',')
            .map((word) => word.trim())
            .filter((word) => word !== ''),
        );
      }}
      onBlur={() => setTyping(null)}
      hint={hint}
      error={error}
    />
  );
}

export function SelectField({
  label,
  value,
  onChange,
  options,
  hint,
  error,
  className,
}: {
  label: string;
  value: string;
  onChange: (value: string) => void;
  options: readonly (readonly [value: string, text: string])[];
  hint?: ReactNode;
  error?: string | undefined;
  className?: string;
}) {
  return (
    <Field label={label} hint={hint} error={error} {...(className && { className })}>
      {(id, described) => (
        <select
          id={id}
          className="box-select"
          value={value}
          onChange={(e) => onChange(e.target.value)}
          aria-describedby={described}
          aria-invalid={error ? true : undefined}
        >
          {options.map(([v, text]) => (
            <option key={v} value={v}>
              {text}
            </option>
          ))}
        </select>
      )}
    </Field>
  );
}

export function Ticks<T extends string>({
  label,
  values,
  chosen,
  onChange,
}: {
  label: string;
  values: readonly T[];
  chosen: readonly T[];
  onChange: (chosen: T[]) => void;
}) {
  return (
    <fieldset>
      <legend className="quiet pb-0.5">{label}</legend>
      <div className="flex flex-wrap gap-x-4 gap-y-1">
        {values.map((v) => (
          <label key={v} className="flex items-center gap-1.5">
            <input
              type="checkbox"
              className="box-tick"
              checked={chosen.includes(v)}
              onChange={(e) => onChange(e.target.checked ? [...chosen, v] : chosen.filter((c) => c !== v))}
            />
            {v}
          </label>
        ))}
      </div>
    </fieldset>
  );
}

export type Errors = {
  readonly of: (field: string) => string | undefined;
  readonly general: string | null;
  readonly problem: Problem | null;
};

/** Keeps the last refusal: at its field where the form has it, else above the form. Nothing typed is lost. */
export function useSubmit(fields: readonly string[]): {
  errors: Errors;
  submit: <T>(call: Promise<{ data?: T; error?: unknown }>) => Promise<T | null>;
  clear: () => void;
} {
  const [problem, setProblem] = useState<Problem | null>(null);
  const submit = useCallback(async <T,>(call: Promise<{ data?: T; error?: unknown }>): Promise<T | null> => {
    const { data, error } = await call;
    setProblem((error as Problem | undefined) ?? null);
    return error ? null : (data as T);
  }, []);
  const fits = (errorField: string | null, field: string): boolean =>
    errorField === field || (errorField?.startsWith(`${field}.`) ?? false);
  const elsewhere = problem?.errors.filter((e) => !fields.some((f) => fits(e.field, f))) ?? [];
  return {
    submit,
    clear: () => setProblem(null),
    errors: {
      problem,
      of: (field) => problem?.errors.find((e) => fits(e.field, field))?.message,
      general:
        problem && (problem.errors.length === 0 ? problem.detail : elsewhere.map((e) => e.message).join(' ') || null),
    },
  };
}

export function GeneralError({ errors }: { errors: Errors }) {
  return errors.general === null || errors.problem === null ? null : (
    <p role="alert" className="border-l-0 py-1 text-missed">
      <SaidProblem problem={errors.problem} text={errors.general} />
    </p>
  );
}

/** A key that makes sending twice the same as sending once. */
export function newRequestKey(): string {
  return crypto.randomUUID();
}
