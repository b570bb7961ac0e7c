// What may be taken instead of a part, which job plans take it, and on which machines it was used.
import { useState } from 'react';
import { Link } from 'react-router';
import { setAlternatives, type PartUse } from '#api/part-life.ts';
import { sayQuantity } from '#core/stores/index.ts';
import { localDateAt } from '#core/time/index.ts';
import { GeneralError, useSubmit } from '../parts/fields.tsx';
import { sayDate } from '../parts/words.ts';
import { Dialog } from '../shell/dialog.tsx';
import { useReader } from '../shell/reader.tsx';
import { ChoosePart, type ChosenPart } from './choose.tsx';
import { storesApi } from './endpoints.ts';

type Other = PartUse['instead'][number];

function OtherPart({ of, unit, remove }: { of: Other; unit: string; remove?: (() => void) | undefined }) {
  return (
    <li>
      <Link className="serial link-ink" to={`/stores/parts/${of.id}`}>
        {of.number}
      </Link>{' '}
      {of.name}{' '}
      <span className="quiet">{of.retired ? 'not offered any more' : `${sayQuantity(of.free)} ${unit} free`}</span>
      {remove && (
        <>
          {' '}
          <button className="link-ink" aria-label={`Not ${of.number} any more`} onClick={remove}>
            remove
          </button>
        </>
      )}
    </li>
  );
}

function InsteadDialog({ partId, held, onClose }: { partId: number; held: readonly Other[]; onClose: () => void }) {
  const [set, { isLoading }] = storesApi.useSetAlternativesMutation();
  const { errors, submit } = useSubmit(['others']);
  const [chosen, setChosen] = useState<ChosenPart | null>(null);
  const seen = held.map((h) => h.id);
  const keep = async (): Promise<void> => {
    if (!chosen) return;
    const body = { others: [...seen, chosen.id], seen };
    if (await submit(set({ params: { id: String(partId) }, body: body }))) onClose();
  };
  return (
    <Dialog title="What may be taken instead" onClose={onClose}>
      <h1>What may be taken instead</h1>
      <ChoosePart chosen={chosen} onChoose={setChosen} error={errors.of('others')} />
      <p className="quiet mt-2">Where this part is open on an order and the other one is free, the order offers it.</p>
      <GeneralError errors={errors} />
      <div className="form-acts">
        <button className="act-main" disabled={!chosen || isLoading} onClick={() => void keep()}>
          Keep it
        </button>
        <button className="act" onClick={onClose}>
          Cancel
        </button>
      </div>
    </Dialog>
  );
}

function Instead({ of, partId, unit }: { of: PartUse; partId: number; unit: string }) {
  const reader = useReader();
  const [isAdding, setAdding] = useState(false);
  const [set] = storesApi.useSetAlternativesMutation();
  const { errors, submit } = useSubmit([]);
  const may = reader.may(setAlternatives);
  const seen = of.instead.map((o) => o.id);
  const remove = (id: number) => {
    const body = { others: seen.filter((s) => s !== id), seen };
    void submit(set({ params: { id: String(partId) }, body: body }));
  };
  if (!may && of.instead.length === 0 && of.standsInFor.length === 0) return null;
  return (
    <section>
      <h2 className="flex items-baseline gap-4">
        Instead of it
        {may && (
          <button className="link-ink font-normal" onClick={() => setAdding(true)}>
            another part…
          </button>
        )}
      </h2>
      {of.instead.length === 0 && <p className="quiet">Nothing stands in for it.</p>}
      <ul>
        {of.instead.map((o) => (
          <OtherPart key={o.id} of={o} unit={unit} remove={may ? () => remove(o.id) : undefined} />
        ))}
      </ul>
      {of.standsInFor.length > 0 && (
        <>
          <h3 className="quiet mt-2 font-normal">It stands in for</h3>
          <ul>
            {of.standsInFor.map((o) => (
              <OtherPart key={o.id} of={o} unit={unit} />
            ))}
          </ul>
        </>
      )}
      <GeneralError errors={errors} />
      {isAdding && <InsteadDialog partId={partId} held={of.instead} onClose={() => setAdding(false)} />}
    </section>
  );
}

function WhereUsed({ of, unit }: { of: PartUse; unit: string }) {
  const { zone } = useReader();
  if (of.plans.length === 0 && of.models.length === 0)
    return (
      <section>
        <h2>Where it is used</h2>
        <p className="quiet">No job plan takes it, and it was used on no machine yet.</p>
      </section>
    );
  return (
    <section>
      <h2>Where it is used</h2>
      {of.plans.length > 0 && (
        <p>
          <span className="quiet">Job plans:</span>{' '}
          {of.plans.map((p) => `${p.name} (${sayQuantity(p.thousandths)})`).join(', ')}
        </p>
      )}
      {of.models.length > 0 && (
        <table className="dense mt-1">
          <thead>
            <tr>
              <th>Class</th>
              <th>Model</th>
              <th className="num">Orders</th>
              <th className="num">Used, {unit}</th>
              <th>Last</th>
            </tr>
          </thead>
          <tbody>
            {of.models.map((m) => (
              <tr key={`${m.className} ${m.maker} ${m.model}`}>
                <td>{m.className}</td>
                <td>
                  {m.maker} {m.model}
                </td>
                <td className="num">{m.orders}</td>
                <td className="num">{sayQuantity(m.thousandths)}</td>
                <td className="whitespace-nowrap">{sayDate(localDateAt(zone, m.lastAt))}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}

export function UseOfPart({ partId, unit }: { partId: number; unit: string }) {
  const { data } = storesApi.useReadPartUseQuery({ params: { id: String(partId) } });
  if (!data) return null;
  return (
    <div className="mt-6 grid max-w-5xl grid-cols-[1fr_1.4fr] items-start gap-10">
      <Instead of={data} partId={partId} unit={unit} />
      <WhereUsed of={data} unit={unit} />
    </div>
  );
}
