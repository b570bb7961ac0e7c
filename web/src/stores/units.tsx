// Units that are kept by serial: where each is, its life, what it is part of, and a machine of its own made of it.
import { useState } from 'react';
import { Link, useParams, useSearchParams } from 'react-router';
import { becomeAsset, type UnitLife, type UnitOut } from '#api/part-life.ts';
import { orderNumber } from '#api/shapes.ts';
import { Pager, usePages } from '../parts/pager.tsx';
import { WireSelect, WireText } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { sayDate, sayMoment } from '../parts/words.ts';
import { setupApi } from '../setup/index.ts';
import { Dialog } from '../shell/dialog.tsx';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { Waiting } from '../shell/waiting.tsx';
import { storesApi } from './endpoints.ts';
import { KINDS } from './move-kinds.ts';
import { StoresParts } from './sections.tsx';

const unitPath = (partId: number, serial: string): string =>
  `/stores/parts/${partId}/unit?serial=${encodeURIComponent(serial)}`;

export const UnitLink = ({ partId, serial }: { partId: number; serial: string }) => (
  <Link className="serial link-ink" to={unitPath(partId, serial)}>
    {serial}
  </Link>
);

function Where({ of }: { of: UnitOut }) {
  if (of.store)
    return (
      <>
        in{' '}
        <Link className="link-ink" to={`/stores/all/${of.store.id}`}>
          {of.store.name}
        </Link>
      </>
    );
  if (of.place !== 'built in') return <>{of.place}</>;
  return (
    <>
      built into{' '}
      {of.asset ? (
        <Link className="link-ink" to={`/assets/${of.asset.id}`}>
          <span className="serial">{of.asset.tag}</span> {of.asset.name}
        </Link>
      ) : (
        'no machine of the register'
      )}
    </>
  );
}

export function Units({ partId }: { partId: number }) {
  const [q, setQ] = useState('');
  const pages = usePages();
  const { after } = pages;
  const query = storesApi.useListUnitsQuery({
    params: { id: String(partId) },
    query: { limit: '20', ...(q && { q }), ...(after && { after }) },
  });
  return (
    <section className="mt-6">
      <h2 className="flex items-baseline gap-4">
        Units
        <input
          type="search"
          className="box-field w-56 font-normal"
          aria-label="Serial"
          placeholder="A part of the serial"
          value={q}
          onChange={(e) => {
            pages.begin();
            setQ(e.target.value);
          }}
        />
      </h2>
      <Waiting query={query}>
        {({ items, next }) =>
          items.length === 0 ? (
            <p className="quiet mt-1">{q ? `No serial answers to “${q}”.` : 'There was none of it yet.'}</p>
          ) : (
            <>
              <table className="dense mt-1 max-w-3xl">
                <tbody>
                  {items.map((u) => (
                    <tr key={u.serial}>
                      <td className="w-44">
                        <UnitLink partId={partId} serial={u.serial} />
                      </td>
                      <td>
                        <Where of={u} />
                      </td>
                    </tr>
                  ))}
                </tbody>
              </table>
              <Pager pages={pages} next={next} words={['Before', 'Further']} className="py-2" />
            </>
          )
        }
      </Waiting>
    </section>
  );
}

function BecomeDialog({
  usedPartId,
  serial,
  name,
  onClose,
}: {
  usedPartId: number;
  serial: string;
  name: string;
  onClose: () => void;
}) {
  const { data } = setupApi.useReadReferenceQuery();
  const [become] = storesApi.useBecomeAssetMutation();
  const form = useWireForm(becomeAsset, { classId: NaN, maker: '', model: name, tag: '' });
  return (
    <Dialog title="A machine of its own" onClose={onClose}>
      <WireForm
        form={form}
        name="A machine of its own"
        save="Register it"
        send={(body) => become({ params: { id: String(usedPartId) }, body })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>A machine of its own</h1>
        <p className="quiet">
          <span className="serial">{serial}</span> is registered within the machine it was built into, at its place and
          for its customer, warranted as the part is.
        </p>
        <WireSelect
          name="classId"
          label="Class"
          options={[[NaN, 'choose…'] as const, ...(data?.classes ?? []).map((c) => [c.id, c.name] as const)]}
        />
        <div className="grid grid-cols-2 gap-3">
          <WireText name="maker" label="Maker" />
          <WireText name="model" label="Model" />
        </div>
        <WireText name="tag" label="Tag" />
      </WireForm>
    </Dialog>
  );
}

function Steps({ of }: { of: UnitLife }) {
  const { zone } = useReader();
  const { data: session } = server.useReadSessionQuery();
  return (
    <>
      <h2 className="mt-6 mb-1">Its life</h2>
      <table className="dense max-w-4xl">
        <thead>
          <tr>
            <th>When</th>
            <th>What</th>
            <th>Where</th>
            <th>Order</th>
            <th>Who</th>
            <th>Note</th>
          </tr>
        </thead>
        <tbody>
          {[...of.steps].reverse().map((s, i) => (
            <tr key={`${s.at} ${i}`}>
              <td className="whitespace-nowrap">{sayMoment(s.at, session?.now ?? s.at, zone)}</td>
              <td>{KINDS[s.kind]}</td>
              <td>{s.store?.name ?? s.asset?.tag}</td>
              <td>
                {s.orderId !== null && (
                  <Link className="serial link-ink" to={`/orders/${s.orderId}`}>
                    {orderNumber(s.orderId)}
                  </Link>
                )}
              </td>
              <td>{s.by}</td>
              <td className="quiet">{s.text}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}

function Life({ of, partId }: { of: UnitLife; partId: number }) {
  const reader = useReader();
  const [isBecoming, setBecoming] = useState(false);
  const { builtIn } = of;
  return (
    <>
      <h1 className="mt-3">
        <span className="serial">{of.serial}</span> {of.part.name}
      </h1>
      <p>
        <Link className="serial link-ink" to={`/stores/parts/${partId}`}>
          {of.part.number}
        </Link>
        , <Where of={of} />
      </p>
      {builtIn && (
        <p className="mt-2">
          Built in on {sayDate(builtIn.on)},{' '}
          {builtIn.warrantyUntil === null
            ? 'without a warranty of its own.'
            : `warranted until ${sayDate(builtIn.warrantyUntil)}.`}{' '}
          {builtIn.became ? (
            <>
              It is{' '}
              <Link className="link-ink" to={`/assets/${builtIn.became.id}`}>
                <span className="serial">{builtIn.became.tag}</span> {builtIn.became.name}
              </Link>{' '}
              in the register.
            </>
          ) : (
            of.asset &&
            reader.may(becomeAsset) && (
              <button className="link-ink" onClick={() => setBecoming(true)}>
                Make it a machine of its own…
              </button>
            )
          )}
        </p>
      )}
      <Steps of={of} />
      {isBecoming && builtIn && (
        <BecomeDialog
          usedPartId={builtIn.usedPartId}
          serial={of.serial}
          name={of.part.name}
          onClose={() => setBecoming(false)}
        />
      )}
    </>
  );
}

export function UnitOf({ id, serial }: { id: string; serial: string }) {
  const query = storesApi.useReadUnitQuery({ params: { id }, query: { serial } });
  return (
    <article className="px-7 pt-5 pb-10">
      <StoresParts />
      <Waiting query={query}>{(of) => <Life of={of} partId={of.part.id} />}</Waiting>
    </article>
  );
}

export function UnitRoom() {
  const { id = '' } = useParams();
  const [params] = useSearchParams();
  return <UnitOf id={id} serial={params.get('serial') ?? ''} />;
}

/** What is part of a machine, on its own page; nothing where nothing is. */
export function BuiltInto({ assetId }: { assetId: number }) {
  const { data } = storesApi.useReadBuiltInQuery({ params: { id: String(assetId) } });
  if (!data || data.items.length === 0) return null;
  return (
    <section className="mt-5">
      <h2>Built into it</h2>
      <table className="dense mt-1">
        <tbody>
          {data.items.map((u) => (
            <tr key={u.usedPartId}>
              <td className="w-36">
                <UnitLink partId={u.part.id} serial={u.serial} />
              </td>
              <td>
                {u.part.name}
                <span className="quiet block">
                  since {sayDate(u.on)}
                  {u.warrantyUntil !== null && `, warranted until ${sayDate(u.warrantyUntil)}`}
                </span>
              </td>
              <td>
                {u.became && (
                  <Link className="serial link-ink" to={`/assets/${u.became.id}`}>
                    {u.became.tag}
                  </Link>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
