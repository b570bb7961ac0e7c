// The parts list: found by fragments, kept, and loaded from a file that says first what it would change.
import { useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { addPart, importParts, partsCsv, type PartIn, type PartOut, type PartsEffect } from '#api/stores.ts';
import { sayAmountOf } from '#core/money.ts';
import { ChooseFile } from '../parts/choose-file.tsx';
import { GeneralError, useSubmit } from '../parts/fields.tsx';
import { Pager, usePages } from '../parts/pager.tsx';
import { WireMoney, WireNumber, WireSelect, WireText, WireTick } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { plural } from '../parts/words.ts';
import { settleApi } from '../settle/index.ts';
import { Dialog } from '../shell/dialog.tsx';
import { useReader } from '../shell/reader.tsx';
import { Waiting } from '../shell/waiting.tsx';
import { storesApi } from './endpoints.ts';
import { Remarks } from './remarks.tsx';
import { StoresParts } from './sections.tsx';

const CURRENCY = 'EUR';

function PartForm({ part, onDone }: { part: PartOut | null; onDone: () => void }) {
  const [add] = storesApi.useAddPartMutation();
  const [change] = storesApi.useChangePartMutation();
  const taxes = settleApi.useReadTaxesQuery();
  const form = useWireForm<PartIn>(addPart, {
    ...{ number: part?.number ?? '', name: part?.name ?? '', unit: part?.unit ?? 'piece' },
    ...{ listPrice: part?.listPrice ?? NaN, cost: part?.cost ?? NaN, taxId: part?.taxId ?? null },
    ...{ consumable: part?.consumable ?? false, serialTracked: part?.serialTracked ?? false },
    ...{ warrantyMonths: part?.warrantyMonths ?? 0 },
    retired: part?.retired ?? false,
  });
  return (
    <WireForm<PartIn, unknown>
      form={form}
      name="Part"
      save="Save the part"
      send={(body, seen) =>
        part
          ? change({ params: { id: String(part.id) }, body: { ...body, version: seen ?? part.version } })
          : add({ body })
      }
      onDone={onDone}
      onCancel={onDone}
      sheet
    >
      <div className="grid grid-cols-[1fr_2fr_1fr] gap-3">
        <WireText name="number" label="Number" autoFocus />
        <WireText name="name" label="Name" />
        <WireText name="unit" label="Unit" />
        <WireMoney name="listPrice" label="List price" currency={CURRENCY} />
        <WireMoney name="cost" label="Cost" currency={CURRENCY} />
        <WireSelect
          name="taxId"
          label="Tax"
          options={[
            [null, 'the standard one'] as const,
            ...(taxes.data?.items ?? []).map((t) => [t.id, t.name] as const),
          ]}
        />
      </div>
      <div className="flex flex-wrap items-end gap-6">
        <WireNumber name="warrantyMonths" label="Warranted, months" min={0} />
        <WireTick name="consumable" label="Consumable" className="pt-1" />
        <WireTick name="serialTracked" label="Kept by serial" className="pt-1" />
        <WireTick name="retired" label="Not offered any more" className="pt-1" />
      </div>
    </WireForm>
  );
}

function Effect({ effect }: { effect: PartsEffect }) {
  const { added, changed, unchanged, bad, wrong, sample } = effect;
  return (
    <div className="border-y border-hairline py-2" aria-live="polite">
      <p>
        {plural(added, 'part')} added, {changed} changed, {unchanged} as they are.
        {bad.length > 0 && ' While a row is wrong nothing is loaded.'}
      </p>
      <Remarks bad={bad} wrong={wrong} />
      {bad.length === 0 && (
        <ul className="quiet">
          {sample.map((p) => (
            <li key={p.number}>
              {p.what}: <span className="serial">{p.number}</span> {p.name}
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}

function LoadDialog({ onClose }: { onClose: () => void }) {
  const [preview] = storesApi.usePreviewPartsMutation();
  const [load, { isLoading }] = storesApi.useImportPartsMutation();
  const { errors, submit } = useSubmit([]);
  const [file, setFile] = useState<{ text: string; effect: PartsEffect } | null>(null);
  const choose = async (chosen: File | undefined): Promise<void> => {
    setFile(null);
    if (!chosen) return;
    const text = await chosen.text();
    const effect = await submit(preview({ body: { text } }));
    if (effect) setFile({ text, effect });
  };
  const ready = file !== null && file.effect.bad.length === 0 && file.effect.added + file.effect.changed > 0;
  return (
    <Dialog title="Load a parts list" onClose={onClose}>
      <h1>Load a parts list</h1>
      <p className="quiet">
        A CSV with number, name, unit, list price, cost, consumable, serial tracked, tax and warranty months, as the
        list gives it. Parts are known by their number.
      </p>
      <ChooseFile accept=".csv,text/csv" onChoose={(file) => void choose(file)} />
      {file && <Effect effect={file.effect} />}
      <GeneralError errors={errors} />
      <div className="form-acts">
        <button
          className="act-main"
          disabled={!ready || isLoading}
          onClick={() =>
            void submit(load({ body: { text: file?.text ?? '' } })).then((done) => {
              if (done) onClose();
            })
          }
        >
          {ready ? `Load ${file.effect.added + file.effect.changed}` : 'Load'}
        </button>
        <button className="act" onClick={onClose}>
          Cancel
        </button>
      </div>
    </Dialog>
  );
}

function Row({ part, may, change }: { part: PartOut; may: boolean; change: () => void }) {
  const money = (minor: number | null): string => (minor === null ? '' : sayAmountOf(minor, CURRENCY));
  return (
    <tr className={part.retired ? 'quiet' : undefined}>
      <td className="serial whitespace-nowrap">
        <Link className="link-ink" to={`/stores/parts/${part.id}`}>
          {part.number}
        </Link>
      </td>
      <td>{part.name}</td>
      <td>{part.unit}</td>
      <td className="num">{money(part.listPrice)}</td>
      <td className="num">{money(part.cost)}</td>
      <td>
        {[part.consumable && 'consumable', part.serialTracked && 'by serial', part.retired && 'not offered any more']
          .filter((x) => x)
          .join(', ')}
      </td>
      <td>{part.tax}</td>
      {may && (
        <td className="text-right">
          <button className="link-ink" onClick={change} aria-label={`Change ${part.number}`}>
            change
          </button>
        </td>
      )}
    </tr>
  );
}

function Filter({ q, change, total }: { q: string; change: (q: string) => void; total: number | undefined }) {
  const reader = useReader();
  return (
    <>
      <input
        type="search"
        className="box-field w-72"
        aria-label="Number or name"
        placeholder="A part of the number or name"
        value={q}
        onChange={(e) => change(e.target.value)}
      />
      <p className="quiet">
        {total !== undefined && plural(total, 'part')}{' '}
        {reader.may(partsCsv) && (
          <a
            className="link-ink"
            href={`/api/parts.csv?retired=with${q ? `&q=${encodeURIComponent(q)}` : ''}`}
            download
          >
            CSV
          </a>
        )}
      </p>
    </>
  );
}

function List({ items, change }: { items: readonly PartOut[]; change: ((part: PartOut) => void) | null }) {
  return (
    <table className="dense mt-3">
      <thead>
        <tr>
          <th>Number</th>
          <th>Name</th>
          <th>Unit</th>
          <th className="num">List price, {CURRENCY}</th>
          <th className="num">Cost, {CURRENCY}</th>
          <th>Kept as</th>
          <th>Tax</th>
          {change && (
            <th>
              <span className="sr-only">Change</span>
            </th>
          )}
        </tr>
      </thead>
      <tbody>
        {items.map((p) => (
          <Row key={p.id} part={p} may={change !== null} change={() => change?.(p)} />
        ))}
      </tbody>
    </table>
  );
}

export function PartsRoom() {
  const reader = useReader();
  const [params, setParams] = useSearchParams();
  const q = params.get('q') ?? '';
  const pages = usePages();
  const { after } = pages;
  const query = storesApi.useListPartsQuery({
    query: { retired: 'with', ...(q && { q }), ...(after && { after }) },
  });
  const [editing, setEditing] = useState<PartOut | 'new' | null>(null);
  const [loading, setLoading] = useState(false);
  const may = reader.may(addPart);
  const find = (text: string): void => {
    pages.begin();
    setParams(text ? { q: text } : {}, { replace: true });
  };
  return (
    <article className="px-7 pt-5 pb-10">
      <h1 className="mb-2">Parts</h1>
      <StoresParts />
      <div className="mt-3 flex flex-wrap items-end gap-3">
        <Filter q={q} change={find} total={query.data?.total} />
        {may && (
          <button className="act-main" onClick={() => setEditing('new')}>
            Add a part
          </button>
        )}
        {reader.may(importParts) && (
          <button className="act" onClick={() => setLoading(true)}>
            Load a list…
          </button>
        )}
      </div>
      {editing && (
        <div key={editing === 'new' ? 0 : editing.id}>
          <PartForm part={editing === 'new' ? null : editing} onDone={() => setEditing(null)} />
        </div>
      )}
      <Waiting query={query}>
        {({ items, next }) =>
          items.length === 0 ? (
            <p className="quiet mt-3">
              {q ? `No part answers to “${q}”.` : 'No part yet. Add one, or load a list.'}{' '}
              {q && (
                <button className="link-ink" onClick={() => find('')}>
                  Lift the filter
                </button>
              )}
            </p>
          ) : (
            <>
              <List items={items} change={may ? setEditing : null} />
              <Pager pages={pages} next={next} words={['Before', 'Further']} className="py-3" />
            </>
          )
        }
      </Waiting>
      {loading && <LoadDialog onClose={() => setLoading(false)} />}
    </article>
  );
}
