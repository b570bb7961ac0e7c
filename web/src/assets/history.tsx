// Past work: repairs by class, model, fault or words, with what they took, so that an odd job can be quoted.
import { Link, useSearchParams } from 'react-router';
import type { History } from '#api/assets.ts';
import { orderNumber } from '#api/shapes.ts';
import { localDateAt, type Zone } from '#core/time/index.ts';
import { SelectField, TextField } from '../parts/fields.tsx';
import { Table, type Column } from '../parts/table/index.ts';
import { plural, sayDate, sayMinutes } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { assetsApi } from './endpoints.ts';
import { setupApi } from '../setup/index.ts';
import { Waiting } from '../shell/waiting.tsx';

type Spread = History['spreads']['labourMinutes'];
const money = (minor: number): string =>
  `${(minor / 100).toLocaleString('en-GB', { minimumFractionDigits: 2, maximumFractionDigits: 2 })}`;

const hours = (minutes: number): string => sayMinutes(Math.round(minutes));

type Line = History['items'][number];
const amount = (id: string, head: string, of: (l: Line) => number | null): Column<Line> => ({
  id,
  head,
  isNumber: true,
  value: (l) => {
    const minor = of(l);
    return minor === null ? null : minor / 100;
  },
  show: (l) => {
    const minor = of(l);
    return minor === null ? '–' : money(minor);
  },
});

const columnsIn = (zone: Zone): Column<Line>[] => [
  {
    id: 'repair',
    head: 'Repair',
    value: (l) => l.title,
    show: (l) => (
      <>
        <Link className="link-ink" to={`/orders/${l.orderId}`}>
          {l.title}
        </Link>{' '}
        <span className="quiet serial">{orderNumber(l.orderId)}</span>
      </>
    ),
  },
  {
    id: 'fault',
    head: 'Fault',
    value: (l) => l.fault,
    show: (l) => l.fault ?? <span className="quiet">not named</span>,
  },
  {
    id: 'asset',
    head: 'Asset',
    value: (l) => `${l.model} ${l.tag}`,
    show: (l) => (
      <>
        {l.model}{' '}
        <Link className="serial link-ink" to={`/assets/${l.assetId}`}>
          {l.tag}
        </Link>
      </>
    ),
    className: 'whitespace-nowrap',
  },
  { id: 'customer', head: 'Customer', value: (l) => l.customer },
  {
    id: 'done',
    head: 'Done',
    value: (l) => localDateAt(zone, l.doneAt),
    show: (l) => sayDate(localDateAt(zone, l.doneAt)),
    className: 'whitespace-nowrap',
  },
  {
    id: 'labour',
    head: 'Labour',
    isNumber: true,
    value: (l) => l.labourMinutes,
    show: (l) => (l.labourMinutes === null ? '–' : hours(l.labourMinutes)),
    className: 'whitespace-nowrap',
  },
  amount('parts', 'Parts, EUR', (l) => l.partsCost),
  amount('other', 'Other, EUR', (l) => l.otherCost),
];

function SpreadFigure({ name, spread, say }: { name: string; spread: Spread; say: (n: number) => string }) {
  return (
    <div className="min-w-44">
      <p className="figure">{spread ? say(spread.median) : '–'}</p>
      <p className="quiet">{name}, median</p>
      {spread && (
        <>
          <p className="quiet">
            mean {say(spread.mean)}
            {spread.deviation !== null ? ` ± ${say(spread.deviation)}` : ''}
          </p>
          <p className="quiet">
            from {say(spread.least)} to {say(spread.most)}, {plural(spread.count, 'job')}
          </p>
        </>
      )}
    </div>
  );
}

/** What such work took, and which faults it was. */
function Figures({ found, choose }: { found: History; choose: (fault: string) => void }) {
  return (
    <div className="mt-4 flex flex-wrap gap-x-12 gap-y-3 border-y border-hairline py-3">
      <SpreadFigure name="Labour" spread={found.spreads.labourMinutes} say={hours} />
      <SpreadFigure name="Parts, EUR" spread={found.spreads.partsCost} say={money} />
      <SpreadFigure name="Other cost, EUR" spread={found.spreads.otherCost} say={money} />
      <div className="max-w-md flex-1">
        <p className="quiet">Faults among them</p>
        <p className="flex flex-wrap gap-x-3">
          {found.faults.map((f) => (
            <button key={f.fault} className="link-ink" onClick={() => choose(f.fault)}>
              {f.fault} <span className="quiet">{f.count}</span>
            </button>
          ))}
          {found.faults.length === 0 && <span className="quiet">none named</span>}
        </p>
      </div>
    </div>
  );
}

export function HistoryPage() {
  const reader = useReader();
  const [params, setParams] = useSearchParams();
  const { data: reference } = setupApi.useReadReferenceQuery();
  const asked = {
    class: params.get('class') ?? '',
    model: params.get('model') ?? '',
    fault: params.get('fault') ?? '',
    words: params.get('words') ?? '',
  };
  const set = (key: keyof typeof asked) => (value: string) =>
    setParams(
      (old) => {
        if (value) old.set(key, value);
        else old.delete(key);
        return old;
      },
      { replace: true },
    );
  const query = Object.fromEntries(Object.entries(asked).filter(([, value]) => value !== ''));
  const result = assetsApi.useSearchHistoryQuery({ query });
  return (
    <article className="px-7 pt-5 pb-12">
      <p className="quiet">
        <Link className="link-ink" to="/register">
          Register
        </Link>
      </p>
      <h1>Past work</h1>
      <div className="mt-2 grid max-w-4xl grid-cols-4 gap-3">
        <SelectField
          label="Class"
          value={asked.class}
          onChange={set('class')}
          options={[['', 'every class'], ...(reference?.classes ?? []).map((c) => [String(c.id), c.name] as const)]}
        />
        <TextField label="Model begins with" value={asked.model} onChange={set('model')} />
        <TextField label="Fault" value={asked.fault} onChange={set('fault')} />
        <TextField label="Words" value={asked.words} onChange={set('words')} />
      </div>
      <Waiting query={result}>
        {(found) => (
          <>
            <Figures found={found} choose={set('fault')} />
            {found.items.length === 0 ? (
              <p className="border-b border-hairline py-6">
                No finished repair fits.{' '}
                <button className="link-ink" onClick={() => setParams({})}>
                  Lift the filter
                </button>
              </p>
            ) : (
              <>
                <div className="mt-3">
                  <Table
                    name="past-work"
                    caption="Finished repairs"
                    title={
                      <p className="quiet">
                        {found.total >= 2000 ? 'The newest 2,000 repairs' : plural(found.total, 'finished repair')}
                        {found.total > found.items.length ? `, the newest ${found.items.length} shown` : ''}
                      </p>
                    }
                    columns={columnsIn(reader.zone)}
                    rows={found.items}
                    idOf={(l) => `${l.orderId}/${l.assetId}`}
                    csv={`/api/history.csv?${new URLSearchParams(query).toString()}`}
                  />
                </div>
              </>
            )}
          </>
        )}
      </Waiting>
    </article>
  );
}
