// Forms by the wire's own schema: what the server would refuse for its shape is said at its field before anything is sent, what it
// refuses otherwise comes back to its field, nothing typed is lost, and leaving with something unsaved asks.
import { createContext, useContext, useEffect, useRef, useState, type ReactNode } from 'react';
import { valibotResolver } from '@hookform/resolvers/valibot';
import {
  FormProvider,
  get,
  useController,
  useForm,
  useFormContext,
  useWatch,
  type FieldErrors,
  type FieldValues,
  type Path,
  type Resolver,
  type UseFormReturn,
} from 'react-hook-form';
import type * as v from 'valibot';
import { sayIssue } from '#api/say-issue.ts';
import type { Problem } from '#api/shapes.ts';
import { requestOf } from './problem.tsx';
import { useMarkUnsaved } from './unsaved.tsx';

export type WireFormOf<Values extends FieldValues> = UseFormReturn<Values>;

/** What is read of a contract: the schema of its body. */
type Bodied<Body extends FieldValues> = { readonly body?: v.GenericSchema<Body, unknown> };

/** A form for the body of a contract. What is sent is what was typed; the server reads it by the same schema. */
export function useWireForm<Body extends FieldValues>(contract: Bodied<Body>, values: NoInfer<Body>): WireFormOf<Body>;
/** A form whose fields are not the body's: `toBody` makes it of them, under the same names where there are such. */
export function useWireForm<Body extends FieldValues, Values extends FieldValues>(
  contract: Bodied<Body>,
  values: Values,
  toBody: (values: Values) => NoInfer<Body>,
): WireFormOf<Values>;
export function useWireForm(
  { body }: Bodied<FieldValues>,
  values: FieldValues,
  toBody: (values: FieldValues) => FieldValues = (typed) => typed,
): WireFormOf<FieldValues> {
  return useForm<FieldValues>({
    ...(body && {
      resolver: (async (typed, context, options) => {
        const read = valibotResolver<FieldValues, unknown, unknown>(body, { message: sayIssue }, { raw: true });
        const { errors } = await read(toBody(typed), context, options);
        return Object.keys(errors).length > 0 ? { values: {}, errors } : { values: typed, errors: {} };
      }) as Resolver<FieldValues>,
    }),
    defaultValues: values,
    mode: 'onTouched',
  });
}

/** The names of the fields that stand in the form, so that a refusal of none of them is said above the buttons. */
const Shown = createContext<Set<string>>(new Set());

const within = (name: string, around: string): boolean => name === around || name.startsWith(`${around}.`);

/** What is said of a part of the errors itself. */
const saidOf = (errors: unknown): string | undefined =>
  typeof errors === 'object' && errors !== null && 'message' in errors && typeof errors.message === 'string'
    ? errors.message
    : undefined;

/** The first thing said in a part of the errors, however deep. */
function firstSaid(errors: unknown): string | undefined {
  if (typeof errors !== 'object' || errors === null) return undefined;
  const own = saidOf(errors);
  if (own !== undefined) return own;
  for (const [key, held] of Object.entries(errors)) {
    const said = key === 'ref' ? undefined : firstSaid(held);
    if (said !== undefined) return said;
  }
  return undefined;
}

/** All that is said, with the path to it. */
function allSaid(errors: unknown, path = ''): { field: string; message: string }[] {
  if (typeof errors !== 'object' || errors === null) return [];
  if ('message' in errors && typeof errors.message === 'string') return [{ field: path, message: errors.message }];
  return Object.entries(errors).flatMap(([key, held]) =>
    key === 'ref' ? [] : allSaid(held, path === '' ? key : `${path}.${key}`),
  );
}

/** Puts refusals at the fields that stand in the form, everything else above its buttons. */
function putRefusals<Values extends FieldValues>(
  form: UseFormReturn<Values>,
  shown: ReadonlySet<string>,
  refusals: readonly { readonly field: string | null; readonly message: string }[],
  otherwise: string,
  request: string | null,
): void {
  const at = (field: string | null): boolean => field !== null && [...shown].some((name) => within(field, name));
  const elsewhere = refusals.filter((e) => !at(e.field)).map((e) => e.message);
  refusals
    .filter((e) => at(e.field))
    .forEach((e) => form.setError(e.field as Path<Values>, { type: 'refused', message: e.message }));
  if (elsewhere.length > 0 || refusals.length === 0)
    form.setError('root', { type: request ?? 'refused', message: [...new Set(elsewhere)].join(' ') || otherwise });
}

/** Somebody changed it meanwhile: which version one has seen once that was said. */
function versionSeen({ code, current }: Problem): number | undefined {
  if (code !== 'stale' || typeof current !== 'object' || current === null || !('version' in current)) return undefined;
  return typeof current.version === 'number' ? current.version : undefined;
}

/** What belongs to no field; `type` is the number of the request where one will have to look it up. */
function SaidAbove({ text, type }: { text: string; type: string }) {
  return (
    <p role="alert" className="py-1 text-missed">
      ✕ {text}
      {type !== 'refused' && (
        <span className="quiet">
          {' '}
          Request <span className="serial">{type}</span>
        </span>
      )}
    </p>
  );
}

type Sending<Values, T> = {
  /** `seen`: the version somebody else's change led to, once this form was refused for it and may be sent again over it. */
  readonly send: (values: Values, seen: number | undefined) => PromiseLike<{ data?: T; error?: unknown }>;
  readonly onDone: (answer: T) => void;
  /** Takes a refusal that the form answers itself; true: nothing more is said. */
  readonly onRefused?: (problem: Problem) => boolean;
};

/** Sends the form; what is refused is said where it belongs, and what was typed stays. */
function useSending<Values extends FieldValues, T>(
  form: WireFormOf<Values>,
  shown: Set<string>,
  { send, onDone, onRefused }: Sending<Values, T>,
) {
  const seen = useRef<number | undefined>(undefined);
  return form.handleSubmit(
    async (values) => {
      const { data, error } = await send(values, seen.current);
      const problem = error as Problem | undefined;
      if (problem) {
        seen.current = versionSeen(problem) ?? seen.current;
        if ('version' in values && seen.current !== undefined)
          form.setValue('version' as Path<Values>, seen.current as never);
        if (onRefused?.(problem)) return;
        return putRefusals(form, shown, problem.errors, problem.detail, requestOf(problem));
      }
      form.reset(form.getValues());
      onDone(data as T);
    },
    (wrong: FieldErrors<Values>) => {
      // Wrong in a part that has no field here: said all the same.
      const elsewhere = allSaid(wrong).filter((e) => ![...shown].some((field) => within(e.field, field)));
      if (elsewhere.length > 0) putRefusals(form, shown, elsewhere, '', null);
    },
  );
}

export function WireForm<Values extends FieldValues, T>({
  form,
  name,
  save,
  onCancel,
  cancel = 'Cancel',
  sheet = false,
  disabled = false,
  children,
  ...sending
}: Sending<Values, T> & {
  form: WireFormOf<Values>;
  name: string;
  /** What the button says will happen. */
  save: ReactNode;
  onCancel?: () => void;
  /** What the button beside says, where leaving it is more than closing. */
  cancel?: string;
  /** On a sheet of its own, where the form stands in a page and does not float. */
  sheet?: boolean;
  /** Nothing can be saved yet. */
  disabled?: boolean;
  children: ReactNode;
}) {
  const { errors, isDirty, isSubmitting, submitCount } = form.formState;
  const [shown] = useState(() => new Set<string>());
  const box = useRef<HTMLFormElement>(null);
  // The first field that is wrong takes the keys.
  useEffect(() => {
    if (submitCount > 0) box.current?.querySelector<HTMLElement>('[aria-invalid="true"]')?.focus();
  }, [submitCount]);
  useMarkUnsaved(isDirty && !isSubmitting);
  const submit = useSending(form, shown, sending);
  return (
    <FormProvider {...form}>
      <Shown value={shown}>
        <form
          ref={box}
          className={`space-y-3 ${sheet ? 'sheet mt-3 p-4' : ''}`}
          noValidate
          aria-label={name}
          onSubmit={(event) => {
            event.stopPropagation();
            form.clearErrors('root');
            void submit(event);
          }}
        >
          {children}
          {errors.root?.message && <SaidAbove text={errors.root.message} type={String(errors.root.type)} />}
          <div className="form-acts">
            <button className="act-main" disabled={isSubmitting || disabled}>
              {save}
            </button>
            {onCancel && (
              <button type="button" className="act" onClick={onCancel}>
                {cancel}
              </button>
            )}
          </div>
        </form>
      </Shown>
    </FormProvider>
  );
}

export type Bound = {
  readonly value: unknown;
  readonly change: (value: unknown) => void;
  readonly left: () => void;
  /** What is wrong with it, or with the first wrong part of it. */
  readonly error: string | undefined;
  /** What is wrong with it as a whole, and with no part of it. */
  readonly ownError: string | undefined;
  /** What is wrong with a part of it, by its path within. */
  readonly errorAt: (part: string) => string | undefined;
};

/** Binds one name of the form: its value, how it changes, what is wrong with it. */
export function useBound(name: string): Bound {
  const { control, formState } = useFormContext();
  const { field } = useController({ control, name });
  const shown = useContext(Shown);
  useEffect(() => {
    shown.add(name);
    return () => void shown.delete(name);
  }, [shown, name]);
  return {
    value: field.value as unknown,
    change: field.onChange,
    left: field.onBlur,
    error: firstSaid(get(formState.errors, name)),
    ownError: saidOf(get(formState.errors, name)),
    errorAt: (part) => firstSaid(get(formState.errors, `${name}.${part}`)),
  };
}

/** A part of the form that has controls of its own. */
export function Wire<T>({
  name,
  children,
}: {
  name: string;
  children: (
    bound: Omit<Bound, 'value' | 'change'> & { readonly value: T; readonly change: (value: T) => void },
  ) => ReactNode;
}) {
  const bound = useBound(name);
  // What stands in it changes with every part of it: a list is added to as it is now, not as it was when it was last set whole.
  const value: unknown = useWatch({ name });
  return <>{children({ ...bound, value } as never)}</>;
}
