// One part: where it is, which units are where, and how it got there.
import { useState } from 'react';
import { Link, useParams } from 'react-router';
import { purchaseNumber } from '#api/purchases.ts';
import { receiveStock, type PartStock } from '#api/stock.ts';
import { storeLabels } from '#api/stores.ts';
import { seesMoney } from '#core/people.ts';
import { sayAmount, sayQuantity } from '#core/stores/index.ts';
import { Pager, usePages } from '../parts/pager.tsx';
import { sayDate, sayMoment } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { Waiting } from '../shell/waiting.tsx';
import type { ChosenPart } from './choose.tsx';
import { amountOf, CountCells, CountHeads, TooFew } from './counted.tsx';
import { storesApi } from './endpoints.ts';
import { KINDS } from './move-kinds.ts';
import { BoughtOf } from './offered.tsx';
import { PartCourse } from './part-course.tsx';
import { UseOfPart } from './part-use.tsx';
import { StoresParts } from './sections.tsx';
import { MoveButtons, MoveDialog, type Moving } from './moving.tsx';
import { UnitLink, Units } from './units.tsx';

function Where({ of: { part, stores, serials } }: { of: PartStock }) {
  const isMoneySeen = seesMoney(useReader().role);
  if (stores.length === 0) return <p className="quiet mt-3">None of it lies anywhere yet.</p>;
  const all = (of: 'onHand' | 'reserved' | 'free'): number => stores.reduce((sum, s) => sum + s[of], 0);
  const sum = { onHand: all('onHand'), reserved: all('reserved'), free: all('free') };
  return (
    <table className="dense mt-6 max-w-4xl">
      <thead>
        <tr>
          <th>Where</th>
          <th>Depot</th>
          <th>Bin</th>
          <CountHeads />
          {isMoneySeen && <th className="num">One, EUR</th>}
          {part.serialTracked && <th>Serials</th>}
        </tr>
      </thead>
      <tbody>
        {stores.map((s) => (
          <tr key={s.store.id}>
            <td>
              <Link className="link-ink" to={`/stores/all/${s.store.id}`}>
                {s.store.name}
              </Link>
              {s.person && <span className="quiet"> {s.person.name}</span>}
            </td>
            <td>{s.depot.name}</td>
            <td>{s.bin}</td>
            <CountCells of={s} after={<TooFew of={s} />} />
            {isMoneySeen && <td className="num">{amountOf(s.average)}</td>}
            {part.serialTracked && (
              <td className="serial">
                {serials
                  .filter((u) => u.store.id === s.store.id)
                  .map((u, i) => (
                    <span key={u.serial}>
                      {i > 0 && ', '}
                      <UnitLink partId={part.id} serial={u.serial} />
                    </span>
                  ))}
              </td>
            )}
          </tr>
        ))}
      </tbody>
      <tfoot>
        <tr className="font-semibold">
          <td colSpan={3}>In all, {part.unit}</td>
          <CountCells of={sum} />
          {isMoneySeen && <td />}
          {part.serialTracked && <td />}
        </tr>
      </tfoot>
    </table>
  );
}

/** What is to come of it, and when. */
function Coming({ of: { ordered, part } }: { of: PartStock }) {
  if (ordered.length === 0) return null;
  return (
    <section className="mt-6">
      <h2 className="mb-1">To come</h2>
      <ul>
        {ordered.map((o) => (
          <li key={o.purchaseId}>
            {sayAmount(o.thousandths, part.unit)} to {o.store.name}{' '}
            {o.sent ? (o.promisedOn === null ? '' : `on ${sayDate(o.promisedOn)}`) : 'once it is sent'}{' '}
            <Link className="serial link-ink" to={`/stores/purchases/${o.purchaseId}`}>
              {purchaseNumber(o.purchaseId)}
            </Link>{' '}
            <span className="quiet">{o.supplier.name}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}

function Moves({ id }: { id: string }) {
  const { zone, role } = useReader();
  const isMoneySeen = seesMoney(role);
  const { data: session } = server.useReadSessionQuery();
  const pages = usePages();
  const { after } = pages;
  const query = storesApi.useReadMovesQuery({ params: { id }, query: { limit: '40', ...(after && { after }) } });
  const signed = (n: number): string => (n > 0 ? `+${sayQuantity(n)}` : n === 0 ? '' : sayQuantity(n));
  return (
    <Waiting query={query}>
      {({ items, next }) =>
        items.length === 0 ? (
          <p className="quiet">Nothing was moved yet.</p>
        ) : (
          <>
            <table className="dense max-w-4xl">
              <thead>
                <tr>
                  <th>When</th>
                  <th>What</th>
                  <th>Where</th>
                  <th className="num">How many</th>
                  {isMoneySeen && <th className="num">EUR</th>}
                  <th>Who</th>
                  <th>Note</th>
                </tr>
              </thead>
              <tbody>
                {items.map((m) => (
                  <tr key={m.id}>
                    <td className="whitespace-nowrap">
                      {sayMoment(m.at as never, session?.now ?? (m.at as never), zone)}
                    </td>
                    <td>{KINDS[m.kind]}</td>
                    <td>{m.store.name}</td>
                    <td className="num">{signed(m.thousandths)}</td>
                    {isMoneySeen && <td className="num">{amountOf(m.money)}</td>}
                    <td>{m.by}</td>
                    <td className="quiet">{[...m.serials, m.text].filter((x) => x !== '').join(', ')}</td>
                  </tr>
                ))}
              </tbody>
            </table>
            <Pager pages={pages} next={next} words={['Newer', 'Older']} className="py-3" />
          </>
        )
      }
    </Waiting>
  );
}

function Part({ of }: { of: PartStock }) {
  const reader = useReader();
  const stores = storesApi.useListStoresQuery();
  const [moving, setMoving] = useState<Moving | null>(null);
  const { part } = of;
  const chosen = { id: part.id, mark: part.number, name: part.name, part } as unknown as ChosenPart;
  return (
    <>
      <h1 className="mt-3">
        <span className="serial">{part.number}</span> {part.name}
      </h1>
      {reader.may(receiveStock) && stores.data && stores.data.items.length > 0 && (
        <div className="mt-3 flex gap-3">
          <MoveButtons choose={setMoving} />
          {reader.may(storeLabels) && (
            <a className="act" href={`/api/parts/labels.pdf?ids=${part.id}`} target="_blank" rel="noreferrer">
              Label
            </a>
          )}
        </div>
      )}
      <PartCourse of={of} />
      <Where of={of} />
      <Coming of={of} />
      <BoughtOf partId={part.id} />
      <UseOfPart partId={part.id} unit={part.unit} />
      {part.serialTracked && <Units partId={part.id} />}
      <h2 className="mt-6 mb-1">Moves</h2>
      <Moves id={String(part.id)} />
      {moving && stores.data && (
        <MoveDialog
          kind={moving}
          stores={stores.data.items}
          storeId={of.stores.find((s) => s.onHand > 0)?.store.id ?? null}
          part={chosen}
          onClose={() => setMoving(null)}
        />
      )}
    </>
  );
}

export function PartRoom() {
  const { id = '' } = useParams();
  return <PartOf id={id} />;
}

export function PartOf({ id }: { id: string }) {
  const query = storesApi.useReadPartStockQuery({ params: { id } });
  return (
    <article className="px-7 pt-5 pb-10">
      <StoresParts />
      <Waiting query={query}>{(of) => <Part key={of.part.id} of={of} />}</Waiting>
    </article>
  );
}
