// One store: what lies on its shelves, below what it is reordered, and what is done to it.
import { useState } from 'react';
import { Link, useParams, useSearchParams } from 'react-router';
import { receiveStock, setShelf, type ShelfOut, type StoreOut } from '#api/stock.ts';
import { importShelves } from '#api/stores.ts';
import { listCounts } from '#api/counts.ts';
import { readPicking } from '#api/picking.ts';
import { seesMoney } from '#core/people.ts';
import { sayQuantity } from '#core/stores/index.ts';
import { Pager, usePages } from '../parts/pager.tsx';
import { WireNumber, WireText } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { plural } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { Waiting } from '../shell/waiting.tsx';
import { CountsOf } from './counts.tsx';
import { storesApi } from './endpoints.ts';
import { LoadShelves } from './load-shelves.tsx';
import { StoresParts } from './sections.tsx';
import { amountOf, CountCells, CountHeads, TooFew } from './counted.tsx';
import { MoveButtons, MoveDialog, type Moving } from './moving.tsx';

function ShelfForm({ storeId, of, onDone }: { storeId: string; of: ShelfOut; onDone: () => void }) {
  const [keep] = storesApi.useSetShelfMutation();
  const { version, bin, minimum, maximum } = of;
  const form = useWireForm(setShelf, { version, bin, minimum, maximum });
  return (
    <WireForm
      form={form}
      name={`How ${of.number} is kept`}
      save="Keep it so"
      send={(body, seen) =>
        keep({ params: { id: storeId, part: String(of.partId) }, body: { ...body, version: seen ?? version } })
      }
      onDone={onDone}
      onCancel={onDone}
      sheet
    >
      <p>
        <span className="serial">{of.number}</span> {of.name}
      </p>
      <div className="grid max-w-xl grid-cols-3 gap-3">
        <WireText name="bin" label="Bin" />
        <WireNumber name="minimum" label={`At least, ${of.unit}`} per={1000} min={0} step="any" empty={null} />
        <WireNumber name="maximum" label={`At most, ${of.unit}`} per={1000} min={0} step="any" empty={null} />
      </div>
    </WireForm>
  );
}

const between = ({ minimum, maximum }: ShelfOut): string =>
  minimum === null || maximum === null ? '' : `${sayQuantity(minimum)} to ${sayQuantity(maximum)}`;

function Shelves({ items, change }: { items: readonly ShelfOut[]; change: ((of: ShelfOut) => void) | null }) {
  const isMoneySeen = seesMoney(useReader().role);
  return (
    <table className="dense mt-3">
      <thead>
        <tr>
          <th>Number</th>
          <th>Name</th>
          <th>Bin</th>
          <CountHeads />
          <th>Kept between</th>
          {isMoneySeen && <th className="num">One, EUR</th>}
          {isMoneySeen && <th className="num">All, EUR</th>}
          {change && (
            <th>
              <span className="sr-only">Change</span>
            </th>
          )}
        </tr>
      </thead>
      <tbody>
        {items.map((s) => (
          <tr key={s.partId}>
            <td className="serial whitespace-nowrap">
              <Link className="link-ink" to={`/stores/parts/${s.partId}`}>
                {s.number}
              </Link>
            </td>
            <td>{s.name}</td>
            <td>{s.bin}</td>
            <CountCells of={s} unit={s.unit} />
            <td className="whitespace-nowrap">
              {between(s)}
              <TooFew of={s} />
            </td>
            {isMoneySeen && <td className="num">{amountOf(s.average)}</td>}
            {isMoneySeen && <td className="num">{amountOf(s.value)}</td>}
            {change && (
              <td className="text-right">
                <button className="link-ink" onClick={() => change(s)} aria-label={`Change ${s.number}`}>
                  change
                </button>
              </td>
            )}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** The store as a file, out and in, and labels of what it keeps. */
function ListLinks({ storeId, load }: { storeId: number; load: () => void }) {
  const reader = useReader();
  if (!reader.may(importShelves)) return null;
  return (
    <>
      <a className="link-ink" href={`/api/stores/${storeId}/shelves.csv`} download>
        CSV
      </a>{' '}
      <button className="link-ink" onClick={load}>
        Load a list…
      </button>{' '}
      <a className="link-ink" href={`/api/parts/labels.pdf?store=${storeId}`} target="_blank" rel="noreferrer">
        Labels
      </a>
    </>
  );
}

function Store({ store, stores }: { store: StoreOut; stores: readonly StoreOut[] }) {
  const reader = useReader();
  const [params, setParams] = useSearchParams();
  const [q, below] = [params.get('q') ?? '', params.get('below') !== null];
  const pages = usePages();
  const { after } = pages;
  const query = storesApi.useReadShelvesQuery({
    params: { id: String(store.id) },
    query: { ...(q && { q }), ...(below && { below: 'minimum' as const }), ...(after && { after }) },
  });
  const [editing, setEditing] = useState<ShelfOut | null>(null);
  const [moving, setMoving] = useState<Moving | null>(null);
  const [isLoading, setLoading] = useState(false);
  const show = (next: { q: string; below: boolean }): void => {
    pages.begin();
    setParams({ ...(next.q && { q: next.q }), ...(next.below && { below: 'minimum' }) }, { replace: true });
  };
  return (
    <>
      <h1 className="mt-3">{store.name}</h1>
      <p className="quiet">
        {store.kind}, {store.depot.name}
        {store.person && `, ${store.person.name}’s`}
      </p>
      <div className="mt-3 flex flex-wrap items-center gap-3">
        <input
          type="search"
          className="box-field w-72"
          aria-label="Number or name"
          placeholder="A part of the number or name"
          value={q}
          onChange={(e) => show({ q: e.target.value, below })}
        />
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            className="box-tick"
            checked={below}
            onChange={(e) => show({ q, below: e.target.checked })}
          />
          too few only
        </label>
        {reader.may(receiveStock) && <MoveButtons choose={setMoving} />}
        {store.kind === 'depot' && reader.may(readPicking) && (
          <Link className="act" to={`/stores/all/${store.id}/picking`}>
            Pick for a day
          </Link>
        )}
      </div>
      {editing && (
        <ShelfForm key={editing.partId} storeId={String(store.id)} of={editing} onDone={() => setEditing(null)} />
      )}
      <Waiting query={query}>
        {({ items, next, total }) =>
          items.length === 0 ? (
            <p className="quiet mt-3">
              {q || below ? 'Nothing here answers to that.' : 'Nothing lies here yet.'}{' '}
              <ListLinks storeId={store.id} load={() => setLoading(true)} />
            </p>
          ) : (
            <>
              <p className="quiet mt-3">
                {plural(total, 'part')} <ListLinks storeId={store.id} load={() => setLoading(true)} />
              </p>
              <Shelves items={items} change={reader.may(setShelf) ? setEditing : null} />
              <Pager pages={pages} next={next} words={['Before', 'Further']} className="py-3" />
            </>
          )
        }
      </Waiting>
      {reader.may(listCounts) && <CountsOf storeId={String(store.id)} />}
      {isLoading && <LoadShelves storeId={String(store.id)} name={store.name} onClose={() => setLoading(false)} />}
      {moving && (
        <MoveDialog kind={moving} stores={stores} storeId={store.id} part={null} onClose={() => setMoving(null)} />
      )}
    </>
  );
}

export function StoreRoom() {
  const { id = '' } = useParams();
  const query = storesApi.useListStoresQuery();
  return (
    <article className="px-7 pt-5 pb-10">
      <StoresParts />
      <Waiting query={query}>
        {({ items }) => {
          const store = items.find((s) => s.id === Number(id));
          return store ? (
            <Store key={store.id} store={store} stores={items} />
          ) : (
            <p className="mt-3">There is no such store.</p>
          );
        }}
      </Waiting>
    </article>
  );
}
