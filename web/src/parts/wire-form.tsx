// Forms by the wire's own schema: what the server would refuse for its shape is said at its field before anything is sent, what it
// refuses otherwise comes back to its field, nothing typed is lost, and leaving with something unsaved asks.
import { useEffect, type ReactNode } from 'react';
import { valibotResolver } from '@hookform/resolvers/valibot';
import {
  FormProvider,
  useController,
  useForm,
  useFormContext,
  type DefaultValues,
  type FieldValues,
  type Path,
  type UseFormReturn,
} from 'react-hook-form';
import { useBlocker } from 'react-router';
import type * as v from 'valibot';
import type { Problem } from '#api/shapes.ts';
import { Dialog } from '../shell/dialog.tsx';
import { Field, SelectField, TextField } from './fields.tsx';
import { requestOf } from './problem.tsx';

export type WireFormOf<In extends FieldValues, Out> = UseFormReturn<In, unknown, Out>;

/** A form for the body of a contract. */
export function useWireForm<In extends FieldValues, Out>(
  contract: { readonly body?: v.GenericSchema<In, Out> },
  values: In,
): WireFormOf<In, Out> {
  return useForm<In, unknown, Out>({
    ...(contract.body && { resolver: valibotResolver(contract.body) }),
    defaultValues: values as DefaultValues<In>,
    mode: 'onTouched',
  });
}

/** Puts a refusal at the fields the form has, everything else above its buttons. */
function putRefusal<In extends FieldValues>(form: UseFormReturn<In>, problem: Problem): void {
  const values = form.getValues();
  const known = (field: string | null): field is string => field !== null && (field.split('.')[0] ?? '') in values;
  const elsewhere = problem.errors.filter((e) => !known(e.field)).map((e) => e.message);
  problem.errors
    .filter((e) => known(e.field))
    .forEach((e, i) =>
      form.setError(e.field as Path<In>, { type: 'server', message: e.message }, { shouldFocus: i === 0 }),
    );
  if (elsewhere.length > 0 || problem.errors.length === 0)
    form.setError('root', { type: requestOf(problem) ?? 'server', message: elsewhere.join(' ') || problem.detail });
}

/** Asks before something unsaved is left behind. */
function AskBeforeLeaving({ unsaved }: { unsaved: boolean }) {
  const blocker = useBlocker(
    ({ currentLocation, nextLocation }) => unsaved && currentLocation.pathname !== nextLocation.pathname,
  );
  useEffect(() => {
    if (!unsaved) return;
    const ask = (event: BeforeUnloadEvent): void => event.preventDefault();
    window.addEventListener('beforeunload', ask);
    return () => window.removeEventListener('beforeunload', ask);
  }, [unsaved]);
  if (blocker.state !== 'blocked') return null;
  return (
    <Dialog title="Leave without saving?" onClose={() => blocker.reset()}>
      <h1>Leave without saving?</h1>
      <p className="mt-2">What you typed here is not saved yet.</p>
      <div className="form-acts mt-4">
        <button className="act-main" onClick={() => blocker.reset()}>
          Stay here
        </button>
        <button className="act" onClick={() => blocker.proceed()}>
          Leave it
        </button>
      </div>
    </Dialog>
  );
}

export function WireForm<In extends FieldValues, Out, T>({
  form,
  name,
  save,
  send,
  onDone,
  onCancel,
  sheet = false,
  children,
}: {
  form: WireFormOf<In, Out>;
  name: string;
  /** What the button says will happen. */
  save: ReactNode;
  send: (body: Out) => Promise<{ data?: T; error?: unknown }>;
  onDone: (answer: T) => void;
  onCancel?: () => void;
  /** On a sheet of its own, where the form stands in a page and does not float. */
  sheet?: boolean;
  children: ReactNode;
}) {
  const { errors, isDirty, isSubmitting } = form.formState;
  const submit = form.handleSubmit(async (body) => {
    const { data, error } = await send(body);
    if (error) return putRefusal(form as unknown as UseFormReturn<In>, error as Problem);
    form.reset(form.getValues());
    onDone(data as T);
  });
  return (
    <FormProvider {...form}>
      <form
        className={`space-y-3 ${sheet ? 'sheet mt-3 p-4' : ''}`}
        noValidate
        aria-label={name}
        onSubmit={(event) => {
          form.clearErrors('root');
          void submit(event);
        }}
      >
        {children}
        {errors.root?.message && (
          <p role="alert" className="py-1 text-missed">
            ✕ {errors.root.message}
            {errors.root.type !== 'server' && <span className="quiet"> Request {errors.root.type}</span>}
          </p>
        )}
        <div className="form-acts">
          <button className="act-main" disabled={isSubmitting}>
            {save}
          </button>
          {onCancel && (
            <button type="button" className="act" onClick={onCancel}>
              Cancel
            </button>
          )}
        </div>
      </form>
      <AskBeforeLeaving unsaved={isDirty && !isSubmitting} />
    </FormProvider>
  );
}

function useField(name: string) {
  const { field, fieldState } = useController({ control: useFormContext().control, name });
  return { field, error: fieldState.error?.message };
}

type Shared = { readonly name: string; readonly label: string; readonly hint?: ReactNode; readonly className?: string };

/** `empty` stands for no text at all, as the contract has it: nothing written, null, or left out. */
export function WireText({
  name,
  ...given
}: Shared & { readonly type?: string; readonly autoComplete?: string; readonly empty?: '' | null | undefined }) {
  const { field, error } = useField(name);
  const { empty, ...rest } = { empty: '', ...given };
  return (
    <TextField
      {...rest}
      value={(field.value as string | null) ?? ''}
      onChange={(text) => field.onChange(text === '' ? empty : text)}
      onBlur={field.onBlur}
      error={error}
    />
  );
}

export function WireLongText({ name, rows = 8, ...rest }: Shared & { readonly rows?: number }) {
  const { field, error } = useField(name);
  return (
    <Field {...rest} error={error}>
      {(id, described) => (
        <textarea
          {...field}
          id={id}
          rows={rows}
          className="box-field h-auto! py-1.5"
          aria-describedby={described}
          aria-invalid={error ? true : undefined}
        />
      )}
    </Field>
  );
}

export function WireSelect({
  name,
  options,
  ...rest
}: Shared & { readonly options: readonly (readonly [string, string])[] }) {
  const { field, error } = useField(name);
  return (
    <SelectField
      {...rest}
      value={String(field.value ?? '')}
      onChange={field.onChange}
      options={options}
      error={error}
    />
  );
}

export function WireTick({ name, label }: { name: string; label: string }) {
  const { field } = useField(name);
  return (
    <label className="flex items-center gap-2 pt-4">
      <input
        type="checkbox"
        className="box-tick"
        checked={Boolean(field.value)}
        onChange={(e) => field.onChange(e.target.checked)}
        onBlur={field.onBlur}
      />
      {label}
    </label>
  );
}
