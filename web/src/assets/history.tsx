// Past work: repairs by class, model, fault or words, with what they took, so that an odd job can be quoted.
import { Link, useSearchParams } from 'react-router';
import type { History } from '#api/assets.ts';
import { orderNumber } from '#api/shapes.ts';
import { localDateAt } from '#core/time/index.ts';
import { SelectField, TextField } from '../parts/fields.tsx';
import { Listing } from '../parts/listing.tsx';
import { plural, sayDate, sayMinutes } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { assetsApi } from './endpoints.ts';
import { setupApi } from '../setup/index.ts';
import { Waiting } from '../shell/waiting.tsx';

type Spread = History['spreads']['labourMinutes'];
const money = (minor: number): string =>
  `${(minor / 100).toLocaleString('en-GB', { minimumFractionDigits: 2, maximumFractionDigits: 2 })}`;

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
  const query = assetsApi.useSearchHistoryQuery({
    query: Object.fromEntries(Object.entries(asked).filter(([, value]) => value !== '')),
  });
  const hours = (minutes: number): string => sayMinutes(Math.round(minutes));
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
      <Waiting query={query}>
        {(found) => (
          <>
            <div className="mt-4 flex flex-wrap gap-x-12 gap-y-3 border-y border-hairline py-3">
              <SpreadFigure name="Labour" spread={found.spreads.labourMinutes} say={hours} />
              <SpreadFigure name="Parts, EUR" spread={found.spreads.partsCost} say={money} />
              <SpreadFigure name="Other cost, EUR" spread={found.spreads.otherCost} say={money} />
              <div className="max-w-md flex-1">
                <p className="quiet">Faults among them</p>
                <p className="flex flex-wrap gap-x-3">
                  {found.faults.map((f) => (
                    <button key={f.fault} className="link-ink" onClick={() => set('fault')(f.fault)}>
                      {f.fault} <span className="quiet">{f.count}</span>
                    </button>
                  ))}
                  {found.faults.length === 0 && <span className="quiet">none named</span>}
                </p>
              </div>
            </div>
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
                  <Listing
                    name="past-work"
                    title={
                      <p className="quiet">
                        {found.total >= 2000 ? 'The newest 2,000 repairs' : plural(found.total, 'finished repair')}
                        {found.total > found.items.length ? `, the newest ${found.items.length} shown` : ''}
                      </p>
                    }
                  >
                    <table className="dense">
                      <thead>
                        <tr>
                          <th>Repair</th>
                          <th>Fault</th>
                          <th>Asset</th>
                          <th>Customer</th>
                          <th>Done</th>
                          <th className="num">Labour</th>
                          <th className="num">Parts, EUR</th>
                          <th className="num">Other, EUR</th>
                        </tr>
                      </thead>
                      <tbody>
                        {found.items.map((l) => (
                          <tr key={`${l.orderId}/${l.assetId}`}>
                            <td>
                              <Link className="link-ink" to={`/orders/${l.orderId}`}>
                                {l.title}
                              </Link>{' '}
                              <span className="quiet serial">{orderNumber(l.orderId)}</span>
                            </td>
                            <td>{l.fault ?? <span className="quiet">not named</span>}</td>
                            <td className="whitespace-nowrap">
                              {l.model}{' '}
                              <Link className="serial link-ink" to={`/assets/${l.assetId}`}>
                                {l.tag}
                              </Link>
                            </td>
                            <td>{l.customer}</td>
                            <td className="whitespace-nowrap">{sayDate(localDateAt(reader.zone, l.doneAt))}</td>
                            <td className="num whitespace-nowrap">
                              {l.labourMinutes === null ? '–' : hours(l.labourMinutes)}
                            </td>
                            <td className="num">{l.partsCost === null ? '–' : money(l.partsCost)}</td>
                            <td className="num">{l.otherCost === null ? '–' : money(l.otherCost)}</td>
                          </tr>
                        ))}
                      </tbody>
                    </table>
                  </Listing>
                </div>
              </>
            )}
          </>
        )}
      </Waiting>
    </article>
  );
}
