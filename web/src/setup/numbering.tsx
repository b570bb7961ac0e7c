// The scheme by which new agreements are numbered, with the next number shown as it is typed.
import { useState } from 'react';
import { changeNumbering } from '#api/care.ts';
import { numberBy } from '#core/agreements/index.ts';
import { localDateAt } from '#core/time/index.ts';
import { NumberField, TextField, useSubmit } from '../parts/fields.tsx';
import { Form } from '../parts/form.tsx';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { agreementsApi } from '../agreements/index.ts';

type Scheme = { pattern: string; next: number; version: number };

function SchemeForm({ scheme, onDone }: { scheme: Scheme; onDone: () => void }) {
  const [typed, setTyped] = useState(scheme);
  const [change, { isLoading }] = agreementsApi.useChangeNumberingMutation();
  const { errors, submit } = useSubmit(['pattern', 'next']);
  const save = async (): Promise<void> => {
    if (await submit(change({ body: typed }))) onDone();
  };
  return (
    <Form
      name="Numbers of agreements"
      save="Save the scheme"
      onSave={save}
      onCancel={onDone}
      errors={errors}
      disabled={isLoading}
      sheet
    >
      <div className="grid max-w-2xl grid-cols-[2fr_1fr] gap-3">
        <TextField
          label="Scheme"
          value={typed.pattern}
          onChange={(pattern) => setTyped({ ...typed, pattern })}
          error={errors.of('pattern')}
          hint="{number} is the running number, {number:4} has at least four digits, {year} is the year."
        />
        <NumberField
          label="Next number"
          value={typed.next}
          onChange={(next) => setTyped({ ...typed, next })}
          error={errors.of('next')}
          min={1}
        />
      </div>
      <p className="quiet">Agreements written before keep their numbers.</p>
    </Form>
  );
}

export function Numbering() {
  const reader = useReader();
  const [changing, setChanging] = useState(false);
  const { data } = agreementsApi.useReadNumberingQuery();
  const { data: session } = server.useReadSessionQuery();
  if (!data || !session) return null;
  if (changing) return <SchemeForm scheme={data} onDone={() => setChanging(false)} />;
  return (
    <p className="mb-4">
      The next agreement is{' '}
      <span className="serial">{numberBy(data.pattern, data.next, localDateAt(reader.zone, session.now))}</span>, by the
      scheme <span className="serial">{data.pattern}</span>.{' '}
      {reader.may(changeNumbering) && (
        <button className="link-ink" onClick={() => setChanging(true)}>
          change the scheme
        </button>
      )}
    </p>
  );
}
