// A list of a store loaded from a file: bins, limits and what was counted; what it would do is said first, and each row that does not fit.
import { useState } from 'react';
import type { ShelvesEffect } from '#api/stores.ts';
import { ChooseFile } from '../parts/choose-file.tsx';
import { GeneralError, newRequestKey, useSubmit } from '../parts/fields.tsx';
import { plural } from '../parts/words.ts';
import { Dialog } from '../shell/dialog.tsx';
import { amountOf } from './counted.tsx';
import { storesApi } from './endpoints.ts';
import { Remarks } from './remarks.tsx';

function Effect({ of }: { of: ShelvesEffect }) {
  return (
    <div className="border-y border-hairline py-2" aria-live="polite">
      <p>
        {plural(of.kept, 'shelf', 'shelves')} changed, {of.counted} counted, of which {of.differing} differ
        {of.worth !== null && of.differing > 0 && ` by ${amountOf(of.worth)} EUR in all`}, {of.unchanged} as they are.
      </p>
      <Remarks bad={of.bad} wrong={of.wrong} />
      <ul className="quiet">
        {of.sample.map((s) => (
          <li key={s.number}>
            <span className="serial">{s.number}</span> {s.name}: {s.says}
          </li>
        ))}
      </ul>
    </div>
  );
}

export function LoadShelves({ storeId, name, onClose }: { storeId: string; name: string; onClose: () => void }) {
  const [preview] = storesApi.usePreviewShelvesMutation();
  const [load, { isLoading }] = storesApi.useImportShelvesMutation();
  const { errors, submit } = useSubmit([]);
  const [file, setFile] = useState<{ text: string; requestKey: string; effect: ShelvesEffect } | null>(null);
  const choose = async (chosen: File | undefined): Promise<void> => {
    setFile(null);
    if (!chosen) return;
    const text = await chosen.text();
    const effect = await submit(preview({ params: { id: storeId }, body: { text } }));
    if (effect) setFile({ text, requestKey: newRequestKey(), effect });
  };
  const does = file === null ? 0 : file.effect.kept + file.effect.differing;
  const send = async (): Promise<void> => {
    if (!file) return;
    const { text, requestKey, effect } = file;
    if (await submit(load({ params: { id: storeId }, body: { requestKey, text, without: effect.wrong } }))) onClose();
  };
  return (
    <Dialog title="Load a list" onClose={onClose}>
      <h1>Load a list of {name}</h1>
      <p className="quiet">
        A CSV with number, and any of bin, minimum, maximum, counted and unit, as the store’s own CSV gives it. What was
        counted is compared with what lies there now.
      </p>
      <ChooseFile accept=".csv,text/csv" onChoose={(file) => void choose(file)} />
      {file && <Effect of={file.effect} />}
      <GeneralError errors={errors} />
      <div className="form-acts">
        <button className="act-main" disabled={does === 0 || isLoading} onClick={() => void send()}>
          {file && file.effect.wrong > 0 ? `Load without the ${file.effect.wrong} that are wrong` : 'Load'}
        </button>
        <button className="act" onClick={onClose}>
          Cancel
        </button>
      </div>
    </Dialog>
  );
}
