// Counts of a store: begun for all of it, for bins or a cycle; counted line by line, the differences seen with their worth and approved.
import { useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { approveCount, beginCount, callOffCount, COUNTED, type CountLineOut, type CountPage } from '#api/counts.ts';
import { seesMoney } from '#core/people.ts';
import { sayQuantity } from '#core/stores/index.ts';
import { GeneralError, newRequestKey, useSubmit } from '../parts/fields.tsx';
import { Pager, usePages } from '../parts/pager.tsx';
import { WireNumber, WireSelect, WireText } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { plural, sayMoment } from '../parts/words.ts';
import { Dialog } from '../shell/dialog.tsx';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { Waiting } from '../shell/waiting.tsx';
import { amountOf } from './counted.tsx';
import { storesApi } from './endpoints.ts';
import { serialsIn } from './moving.tsx';
import { StoresParts } from './sections.tsx';

const OF: Readonly<Record<(typeof COUNTED)[number], string>> = {
  all: 'all of the store',
  bins: 'bins that begin with …',
  cycle: 'what turns over most and was not counted longest',
};

export function BeginCount({ storeId, onClose }: { storeId: string; onClose: () => void }) {
  const [begin] = storesApi.useBeginCountMutation();
  const [requestKey] = useState(newRequestKey);
  const go = useNavigate();
  const form = useWireForm(beginCount, { requestKey, of: 'cycle', bins: '', most: 20 });
  const of = form.watch('of');
  return (
    <Dialog title="Count the store" onClose={onClose}>
      <WireForm
        form={form}
        name="Count the store"
        save="Begin the count"
        send={(body) => begin({ params: { id: storeId }, body })}
        onDone={(done) => void go(`/stores/counts/${done.id}`)}
        onCancel={onClose}
      >
        <h1>Count the store</h1>
        <p className="quiet">Work goes on meanwhile: each part is compared with what should be there at that moment.</p>
        <WireSelect name="of" label="Count" options={COUNTED.map((c) => [c, OF[c]] as const)} />
        {of === 'bins' && <WireText name="bins" label="Bins that begin with" />}
        {of === 'cycle' && <WireNumber name="most" label="How many parts" min={1} />}
      </WireForm>
    </Dialog>
  );
}

function Line({ count, row }: { count: CountPage; row: CountLineOut }) {
  const { zone, role } = useReader();
  const { data: session } = server.useReadSessionQuery();
  const [keep, { isLoading }] = storesApi.useCountPartMutation();
  const { part, counted, version } = row;
  const [typed, setTyped] = useState('');
  const { errors, submit } = useSubmit([]);
  const serials = part.serialTracked ? serialsIn(typed) : [];
  const thousandths = part.serialTracked ? serials.length * 1000 : Math.round(Number(typed) * 1000);
  const isOpen = count.state === 'open';
  return (
    <tr className="align-top">
      <td>{row.bin}</td>
      <td className="serial whitespace-nowrap">{part.number}</td>
      <td>{part.name}</td>
      {isOpen && (
        <td>
          <form
            className="flex items-center gap-2"
            onSubmit={(e) => {
              e.preventDefault();
              if (typed.trim() === '' && !part.serialTracked) return;
              const body = { thousandths, serials, version };
              void submit(keep({ params: { id: String(count.id), part: String(part.id) }, body })).then((done) => {
                if (done) setTyped('');
              });
            }}
          >
            <input
              className={`box-field ${part.serialTracked ? 'w-44 font-mono' : 'num w-20'}`}
              aria-label={part.serialTracked ? `Serials found of ${part.name}` : `Found of ${part.name}`}
              inputMode={part.serialTracked ? 'text' : 'decimal'}
              value={typed}
              onChange={(e) => setTyped(e.target.value)}
            />
            <button className="link-ink" disabled={isLoading}>
              {counted ? 'count again' : 'counted'}
            </button>
          </form>
          <GeneralError errors={errors} />
        </td>
      )}
      <td className="num">{counted && sayQuantity(counted.thousandths)}</td>
      <td className="num">{counted && sayQuantity(counted.expected)}</td>
      <td className="num">
        {counted &&
          (counted.difference === 0 && counted.missing.length === 0
            ? 'as it should be'
            : `${counted.difference > 0 ? '+' : ''}${sayQuantity(counted.difference)}`)}
        {counted && counted.missing.length > 0 && <div className="serial">missing {counted.missing.join(', ')}</div>}
        {counted && counted.found.length > 0 && <div className="serial">found {counted.found.join(', ')}</div>}
      </td>
      {seesMoney(role) && <td className="num">{counted && counted.value !== 0 && amountOf(counted.value)}</td>}
      <td className="quiet whitespace-nowrap">
        {counted && session && [sayMoment(counted.at, session.now, zone), counted.by].filter((x) => x).join(', ')}
      </td>
    </tr>
  );
}

function Count({ count }: { count: CountPage }) {
  const reader = useReader();
  const [approve, approving] = storesApi.useApproveCountMutation();
  const [callOff, calling] = storesApi.useCallOffCountMutation();
  const { errors, submit } = useSubmit([]);
  const { version, rows } = count;
  const params = { id: String(count.id) };
  const off = rows.filter((r) => r.counted && (r.counted.difference !== 0 || r.counted.missing.length > 0));
  const worth = off.reduce((sum, r) => sum + (r.counted?.value ?? 0), 0);
  const isOpen = count.state === 'open';
  return (
    <>
      <h1 className="mt-3">
        Count of {count.store.name}, {count.what}
      </h1>
      <p className="quiet">
        {count.state}, {count.counted} of {count.lines} counted, {plural(off.length, 'difference')}
        {seesMoney(reader.role) && off.length > 0 && ` worth EUR ${amountOf(worth)}`}.
      </p>
      {isOpen && (
        <div className="mt-3 flex gap-3">
          {reader.may(approveCount) && (
            <button
              className="act-main"
              disabled={approving.isLoading || count.counted === 0}
              onClick={() => void submit(approve({ params, body: { version } }))}
            >
              {off.length === 0 ? 'End the count' : `Let ${plural(off.length, 'difference')} stand`}
            </button>
          )}
          {reader.may(callOffCount) && (
            <button
              className="act"
              disabled={calling.isLoading}
              onClick={() => void submit(callOff({ params, body: { version } }))}
            >
              Call it off
            </button>
          )}
        </div>
      )}
      {isOpen && count.counted < count.lines && count.counted > 0 && reader.may(approveCount) && (
        <p className="quiet mt-2">{plural(count.lines - count.counted, 'part')} not counted yet stay as they are.</p>
      )}
      <GeneralError errors={errors} />
      <table className="dense mt-3">
        <thead>
          <tr>
            <th>Bin</th>
            <th>Number</th>
            <th>Part</th>
            {isOpen && <th>Found</th>}
            <th className="num">Counted</th>
            <th className="num">Should be</th>
            <th className="num">Difference</th>
            {seesMoney(reader.role) && <th className="num">EUR</th>}
            <th>When</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <Line key={row.part.id} count={count} row={row} />
          ))}
        </tbody>
      </table>
    </>
  );
}

export function CountRoom() {
  const { id = '' } = useParams();
  return <CountOf id={id} />;
}

export function CountOf({ id }: { id: string }) {
  const query = storesApi.useReadCountQuery({ params: { id } });
  return (
    <article className="px-7 pt-5 pb-10">
      <StoresParts />
      <Waiting query={query}>{(count) => <Count count={count} />}</Waiting>
    </article>
  );
}

/** The counts of a store, the newest first. */
export function CountsOf({ storeId }: { storeId: string }) {
  const reader = useReader();
  const { data: session } = server.useReadSessionQuery();
  const pages = usePages();
  const { after } = pages;
  const { data } = storesApi.useListCountsQuery({ query: { store: storeId, limit: '10', ...(after && { after }) } });
  const [beginning, setBeginning] = useState(false);
  if (!data || (data.items.length === 0 && !reader.may(beginCount))) return null;
  return (
    <section className="mt-8">
      <h2 className="flex items-baseline gap-4">
        Counts
        {reader.may(beginCount) && (
          <button className="link-ink font-normal" onClick={() => setBeginning(true)}>
            count…
          </button>
        )}
      </h2>
      {data.items.length === 0 ? (
        <p className="quiet">Nothing was counted here yet.</p>
      ) : (
        <ul>
          {data.items.map((c) => (
            <li key={c.id}>
              <Link className="link-ink" to={`/stores/counts/${c.id}`}>
                {c.what}
              </Link>
              <span className="quiet">
                {' '}
                {c.state}, {c.counted} of {c.lines} counted,{' '}
                {session && sayMoment(c.startedAt, session.now, reader.zone)}
                {c.startedBy && ` by ${c.startedBy}`}
              </span>
            </li>
          ))}
        </ul>
      )}
      <Pager pages={pages} next={data.next} words={['Newer', 'Older']} />
      {beginning && <BeginCount storeId={storeId} onClose={() => setBeginning(false)} />}
    </section>
  );
}
