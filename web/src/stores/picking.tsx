// Picking for a day: what a store holds for the work planned, by bin; ticked as it is put together, with serials and why where some is missing.
import { useState } from 'react';
import { Link, useParams, useSearchParams } from 'react-router';
import { bringBack, pick, type ToBringOut, type ToPickOut } from '#api/picking.ts';
import { orderNumber } from '#api/shapes.ts';
import { sayAmount } from '#core/stores/index.ts';
import { addDays, localDateAt, parseLocalDate, type LocalDate } from '#core/time/index.ts';
import { DateField } from '../parts/date-field.tsx';
import { GeneralError, newRequestKey, useSubmit } from '../parts/fields.tsx';
import { TickBox, useTicks, type Ticks } from '../parts/table/index.ts';
import { plural, sayDate } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { Waiting } from '../shell/waiting.tsx';
import { storesApi } from './endpoints.ts';
import { serialsIn } from './moving.tsx';
import { StoresParts } from './sections.tsx';

type Typed = { readonly thousandths?: number; readonly serials?: string; readonly why?: string };
type Kept = ReadonlyMap<number, Typed>;

/** What is picked of a row: all of it, unless somebody said otherwise. */
const pickedOf = (row: ToPickOut, typed: Typed | undefined) => ({
  ...{ needId: row.needId, thousandths: typed?.thousandths ?? row.thousandths, why: typed?.why ?? '' },
  serials: serialsIn(typed?.serials ?? ''),
});

/** Units that are named beside the field; which one it is stands on the shelf. */
const SERIALS_SAID = 4;

function Row({
  row,
  typed,
  ticks,
  change,
  error,
}: {
  row: ToPickOut;
  typed: Typed | undefined;
  ticks: Ticks;
  change: (over: Typed) => void;
  error: string | undefined;
}) {
  const { part, order, needId } = row;
  const n = typed?.thousandths ?? row.thousandths;
  return (
    <tr className="align-top">
      <td>
        <TickBox
          name={`${part.number} for ${orderNumber(order.id)}`}
          checked={ticks.ticked.has(needId)}
          onTick={() => ticks.toggle([needId])}
        />
      </td>
      <td>{row.bin}</td>
      <td className="serial whitespace-nowrap">{part.number}</td>
      <td>{part.name}</td>
      <td className="whitespace-nowrap">
        <input
          className="box-field num w-20 print:hidden"
          type="number"
          min={0}
          step="any"
          aria-label={`Picked of ${part.name} for ${orderNumber(order.id)}`}
          value={n / 1000}
          onChange={(e) => change({ thousandths: Math.round(Number(e.target.value) * 1000) })}
        />
        <span className="print:hidden">{part.unit}</span>
        <span className="hidden print:inline">{sayAmount(row.thousandths, part.unit)}</span>
        {part.serialTracked && (
          <>
            <input
              className="box-field mt-1 block w-44 font-mono print:hidden"
              aria-label={`Serials of ${part.name} for ${orderNumber(order.id)}`}
              placeholder="serials"
              value={typed?.serials ?? ''}
              onChange={(e) => change({ serials: e.target.value })}
            />
            {row.serials.length > 0 && (
              <span className="quiet block whitespace-normal">
                here: {row.serials.slice(0, SERIALS_SAID).join(', ')}
              </span>
            )}
          </>
        )}
        {n < row.thousandths && (
          <input
            className="box-field mt-1 block w-44 print:hidden"
            aria-label={`Why not all of ${part.name}`}
            placeholder="why not all"
            value={typed?.why ?? ''}
            onChange={(e) => change({ why: e.target.value })}
          />
        )}
        {error && <p className="text-missed whitespace-normal">✕ {error}</p>}
      </td>
      <td>
        <Link className="serial link-ink" to={`/orders/${order.id}`}>
          {orderNumber(order.id)}
        </Link>{' '}
        <span className="quiet">{order.title}</span>
        {row.notPicked !== null && <div className="quiet">before: {row.notPicked}</div>}
      </td>
      <td>
        {row.technician?.name ?? <span className="quiet">nobody yet</span>}
        <div className="quiet">{row.van === null ? 'handed over, counts as used' : row.van.name}</div>
      </td>
    </tr>
  );
}

function Picking({ storeId, rows }: { storeId: string; rows: readonly ToPickOut[] }) {
  const reader = useReader();
  const ticks = useTicks();
  const [typed, setTyped] = useState<Kept>(new Map());
  const [send, { isLoading }] = storesApi.usePickMutation();
  const [requestKey, setRequestKey] = useState(newRequestKey);
  const chosen = rows.filter((r) => ticks.ticked.has(r.needId));
  const { errors, submit } = useSubmit(chosen.map((_, i) => `lines.${i}`));
  const [sent, setSent] = useState<readonly number[]>([]);
  const errorOf = (row: ToPickOut): string | undefined => {
    const at = sent.indexOf(row.needId);
    return at < 0 ? undefined : errors.of(`lines.${at}`);
  };
  const press = async (): Promise<void> => {
    setSent(chosen.map((r) => r.needId));
    const lines = chosen.map((r) => pickedOf(r, typed.get(r.needId)));
    const done = await submit(send({ params: { id: storeId }, body: { requestKey, lines } }));
    if (!done) return;
    setRequestKey(newRequestKey());
    setTyped(new Map());
    ticks.clear();
  };
  const ids = rows.map((r) => r.needId);
  return (
    <>
      <div className="mt-3 flex gap-3 print:hidden">
        {reader.may(pick) && (
          <button className="act-main" disabled={chosen.length === 0 || isLoading} onClick={() => void press()}>
            {chosen.length === 0 ? 'Picked' : `${plural(chosen.length, 'line')} picked`}
          </button>
        )}
        <button className="act" onClick={() => window.print()}>
          Print the list
        </button>
      </div>
      <GeneralError errors={errors} />
      <table className="dense mt-3">
        <thead>
          <tr>
            <th>
              <TickBox
                name="all"
                checked={ids.every((id) => ticks.ticked.has(id))}
                some={ticks.ticked.size > 0}
                onTick={() => ticks.toggle(ids)}
              />
            </th>
            <th>Bin</th>
            <th>Number</th>
            <th>Part</th>
            <th>Picked</th>
            <th>For</th>
            <th>To</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <Row
              key={row.needId}
              row={row}
              typed={typed.get(row.needId)}
              ticks={ticks}
              error={errorOf(row)}
              change={(over) => setTyped((old) => new Map([...old, [row.needId, { ...old.get(row.needId), ...over }]]))}
            />
          ))}
        </tbody>
      </table>
    </>
  );
}

function BringRow({ storeId, row }: { storeId: string; row: ToBringOut }) {
  const reader = useReader();
  const [bring, { isLoading }] = storesApi.useBringBackMutation();
  const [requestKey] = useState(newRequestKey);
  const [serials, setSerials] = useState('');
  const { errors, submit } = useSubmit([]);
  const line = { pickId: row.pickId, thousandths: row.thousandths, serials: serialsIn(serials) };
  return (
    <tr className="align-top">
      <td className="serial whitespace-nowrap">{row.part.number}</td>
      <td>{row.part.name}</td>
      <td className="num whitespace-nowrap">{sayAmount(row.thousandths, row.part.unit)}</td>
      <td>{row.van.name}</td>
      <td>
        <Link className="serial link-ink" to={`/orders/${row.order.id}`}>
          {orderNumber(row.order.id)}
        </Link>{' '}
        <span className="quiet">is {row.order.stage}</span>
      </td>
      <td className="text-right">
        {row.part.serialTracked && (
          <input
            className="box-field w-44 font-mono"
            aria-label={`Serials of ${row.part.name}`}
            placeholder="serials"
            value={serials}
            onChange={(e) => setSerials(e.target.value)}
          />
        )}{' '}
        {reader.may(bringBack) && (
          <button
            className="link-ink"
            disabled={isLoading}
            onClick={() => void submit(bring({ params: { id: storeId }, body: { requestKey, lines: [line] } }))}
          >
            it is back
          </button>
        )}
        <GeneralError errors={errors} />
      </td>
    </tr>
  );
}

function ToBring({ storeId }: { storeId: string }) {
  const { data } = storesApi.useReadToBringQuery({ params: { id: storeId } });
  if (!data || data.rows.length === 0) return null;
  return (
    <section className="mt-8">
      <h2>To be brought back</h2>
      <p className="quiet">Picked for work that is over, and not used.</p>
      <table className="dense mt-1">
        <tbody>
          {data.rows.map((row) => (
            <BringRow key={row.pickId} storeId={storeId} row={row} />
          ))}
        </tbody>
      </table>
    </section>
  );
}

export function PickingRoom() {
  const { id = '' } = useParams();
  const { data: session } = server.useReadSessionQuery();
  const { zone } = useReader();
  return session ? <PickingOf id={id} today={localDateAt(zone, session.now)} /> : null;
}

export function PickingOf({ id, today }: { id: string; today: LocalDate }) {
  const [params, setParams] = useSearchParams();
  // Tomorrow's work is put together today.
  const day = parseLocalDate(params.get('day') ?? '') ?? addDays(today, 1);
  const stores = storesApi.useListStoresQuery();
  const name = stores.data?.items.find((s) => String(s.id) === id)?.name ?? '';
  const query = storesApi.useReadPickingQuery({ params: { id }, query: { day } });
  return (
    <article className="px-7 pt-5 pb-10">
      <div className="print:hidden">
        <StoresParts />
      </div>
      <h1 className="mt-3">
        Picking in {name} for {sayDate(day)}
      </h1>
      <div className="mt-2 w-56 print:hidden">
        <DateField label="Day" value={day} onChange={(d) => d && setParams({ day: d }, { replace: true })} />
      </div>
      <Waiting query={query}>
        {({ rows, more }) =>
          rows.length === 0 ? (
            <p className="quiet mt-3">Nothing is held here for work that is planned for this day.</p>
          ) : (
            <>
              <Picking storeId={id} rows={rows} />
              {more && <p className="quiet mt-2">There is more: pick these first.</p>}
            </>
          )
        }
      </Waiting>
      <ToBring storeId={id} />
    </article>
  );
}
