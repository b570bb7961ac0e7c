// A finding in a word of its class, or in another where none fits.
import { useId } from 'react';
import { Field } from '../parts/fields.tsx';
import { useBound } from '../parts/wire-form.tsx';

/** Null: nothing said. */
export function WordField({ name, label, words }: { name: string; label: string; words: readonly string[] }) {
  const { value, change, left, error } = useBound(name);
  const list = useId();
  return (
    <Field label={label} error={error}>
      {(id, described) => (
        <>
          <input
            id={id}
            className="box-field"
            list={list}
            value={(value as string | null) ?? ''}
            onChange={(e) => change(e.target.value === '' ? null : e.target.value)}
            onBlur={left}
            aria-describedby={described}
            aria-invalid={error ? true : undefined}
            placeholder={words.length > 0 ? 'Choose, or write' : ''}
          />
          <datalist id={list}>
            {words.map((word) => (
              <option key={word} value={word} />
            ))}
          </datalist>
        </>
      )}
    </Field>
  );
}
