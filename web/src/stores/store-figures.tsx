// How stores do: worth, turnover, what nothing is taken of, orders that wait, and how often a van had all that an order needed.
import { sum } from 'd3-array';
import { Link } from 'react-router';
import { workOutFigures, type StoreFigures } from '#api/store-figures.ts';
import { sayAmount } from '#core/stores/index.ts';
import { localDateAt, SHORT_MONTHS, type Instant } from '#core/time/index.ts';
import { GeneralError, useSubmit } from '../parts/fields.tsx';
import { Pager, usePages } from '../parts/pager.tsx';
import { plural, sayDate, sayMoment, sayShare } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { Waiting } from '../shell/waiting.tsx';
import { amountOf } from './counted.tsx';
import { storesApi } from './endpoints.ts';
import { StoresParts } from './sections.tsx';

const sayTurnover = (hundredths: number | null): string => (hundredths === null ? '–' : (hundredths / 100).toFixed(2));
const sayMonth = (month: string): string => `${SHORT_MONTHS[Number(month.slice(5)) - 1] ?? ''} ${month.slice(0, 4)}`;

function Numbers({ of }: { of: StoreFigures }) {
  const value = sum(of.stores, (s) => s.value);
  const orders = sum(of.complete, (c) => c.orders);
  const complete = sum(of.complete, (c) => c.complete);
  const figures = [
    ['worth of all stores, EUR', of.madeAt === null ? '–' : amountOf(value)],
    ['orders wait for parts', String(of.waiting)],
    ['needs open', String(of.openNeeds)],
    [
      `complete from the van at first go, ${complete} of ${plural(orders, 'order')} with parts`,
      sayShare(orders === 0 ? null : complete / orders),
    ],
  ] as const;
  return (
    <dl className="mt-4 flex flex-wrap gap-10">
      {figures.map(([says, n]) => (
        <div key={says} className="flex flex-col-reverse">
          <dt className="quiet">{says}</dt>
          <dd className="figure">{n}</dd>
        </div>
      ))}
    </dl>
  );
}

function ByStore({ of }: { of: StoreFigures }) {
  if (of.stores.length === 0) return <p className="quiet mt-4">Nothing was worked out yet.</p>;
  return (
    <table className="dense mt-5 max-w-4xl">
      <thead>
        <tr>
          <th>Store</th>
          <th className="num">Parts</th>
          <th className="num">Worth, EUR</th>
          <th className="num">Taken in a year, EUR</th>
          <th className="num" title="Worth taken in a year over the mean of what lay there then and lies there now">
            Turned over, times
          </th>
          <th className="num">Not taken in a year, EUR</th>
        </tr>
      </thead>
      <tbody>
        {of.stores.map((s) => (
          <tr key={s.store.id}>
            <td>
              <Link className="link-ink" to={`/stores/all/${s.store.id}`}>
                {s.store.name}
              </Link>{' '}
              <span className="quiet">{s.store.kind}</span>
            </td>
            <td className="num">{s.parts}</td>
            <td className="num">{amountOf(s.value)}</td>
            <td className="num">{amountOf(s.taken)}</td>
            <td className="num">{sayTurnover(s.turnover)}</td>
            <td className="num">
              {amountOf(s.deadValue)}{' '}
              <span className="quiet">{s.deadParts > 0 && `in ${plural(s.deadParts, 'part')}`}</span>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Complete({ of }: { of: StoreFigures }) {
  if (of.complete.length === 0) return null;
  return (
    <section className="mt-6">
      <h2 className="mb-1">Complete from the van at first go</h2>
      <table className="dense max-w-xl">
        <thead>
          <tr>
            <th>Month</th>
            <th className="num">Orders with parts</th>
            <th className="num">Complete</th>
            <th className="num">Share</th>
          </tr>
        </thead>
        <tbody>
          {[...of.complete].reverse().map((c) => (
            <tr key={c.month}>
              <td>{sayMonth(c.month)}</td>
              <td className="num">{c.orders}</td>
              <td className="num">{c.complete}</td>
              <td className="num">{sayShare(c.complete / c.orders)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

function Dead() {
  const { zone } = useReader();
  const pages = usePages();
  const { after } = pages;
  const query = storesApi.useReadDeadStockQuery({ query: { limit: '20', ...(after && { after }) } });
  return (
    <section className="mt-6">
      <h2 className="mb-1">Nothing taken in a year</h2>
      <Waiting query={query}>
        {({ items, next }) =>
          items.length === 0 ? (
            <p className="quiet">Of everything that lay there a year ago some was taken since.</p>
          ) : (
            <>
              <table className="dense max-w-4xl">
                <thead>
                  <tr>
                    <th>Number</th>
                    <th>Name</th>
                    <th>Store</th>
                    <th className="num">On hand</th>
                    <th className="num">Worth, EUR</th>
                    <th>Last moved</th>
                  </tr>
                </thead>
                <tbody>
                  {items.map((d) => (
                    <tr key={`${d.store.id} ${d.part.id}`}>
                      <td>
                        <Link className="serial link-ink" to={`/stores/parts/${d.part.id}`}>
                          {d.part.number}
                        </Link>
                      </td>
                      <td>{d.part.name}</td>
                      <td>{d.store.name}</td>
                      <td className="num">{sayAmount(d.onHand, d.part.unit)}</td>
                      <td className="num">{amountOf(d.value)}</td>
                      <td>{d.lastMovedAt !== null && sayDate(localDateAt(zone, d.lastMovedAt))}</td>
                    </tr>
                  ))}
                </tbody>
              </table>
              <Pager pages={pages} next={next} words={['Before', 'Further']} className="py-3" />
            </>
          )
        }
      </Waiting>
    </section>
  );
}

function WorkedOut({ madeAt }: { madeAt: Instant | null }) {
  const reader = useReader();
  const { data: session } = server.useReadSessionQuery();
  const [work, { isLoading }] = storesApi.useWorkOutFiguresMutation();
  const { errors, submit } = useSubmit([]);
  return (
    <p className="quiet mt-3">
      {madeAt !== null && session && `Worth and turnover as of ${sayMoment(madeAt, session.now, reader.zone)}. `}
      {reader.may(workOutFigures) && (
        <button className="link-ink" disabled={isLoading} onClick={() => void submit(work())}>
          work them out now
        </button>
      )}
      <GeneralError errors={errors} />
    </p>
  );
}

export function StoreFiguresRoom() {
  const query = storesApi.useReadStoreFiguresQuery();
  return (
    <article className="px-7 pt-5 pb-10">
      <h1 className="mb-2">How stores do</h1>
      <StoresParts />
      <Waiting query={query}>
        {(of) => (
          <>
            <Numbers of={of} />
            <WorkedOut madeAt={of.madeAt} />
            <ByStore of={of} />
            <Complete of={of} />
            <Dead />
          </>
        )}
      </Waiting>
    </article>
  );
}
