// The scheme by which new agreements are numbered, with the next number shown as it is typed.
import { useState } from 'react';
import { changeNumbering } from '#api/agreements/index.ts';
import { numberBy } from '#core/agreements/index.ts';
import { localDateAt } from '#core/time/index.ts';
import { WireNumber, WireText } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { agreementsApi } from '../agreements/index.ts';

type Scheme = { pattern: string; next: number; version: number };

function SchemeForm({ scheme, onDone }: { scheme: Scheme; onDone: () => void }) {
  const [change] = agreementsApi.useChangeNumberingMutation();
  const form = useWireForm(changeNumbering, scheme);
  return (
    <WireForm
      form={form}
      name="Numbers of agreements"
      save="Save the scheme"
      send={(body) => change({ body })}
      onDone={onDone}
      onCancel={onDone}
      sheet
    >
      <div className="grid max-w-2xl grid-cols-[2fr_1fr] gap-3">
        <WireText
          name="pattern"
          label="Scheme"
          hint="{number} is the running number, {number:4} has at least four digits, {year} is the year."
        />
        <WireNumber name="next" label="Next number" min={1} />
      </div>
      <p className="quiet">Agreements written before keep their numbers.</p>
    </WireForm>
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
