// Orders: the worklist on the left, the record on the right.
import { Link, useNavigate, useParams, useSearchParams } from 'react-router';
import type { OrderRow } from '#api/orders.ts';
import { orderNumber } from '#api/shapes.ts';
import { ORDER_KINDS, type OrderKind } from '#core/orders/index.ts';
import { marginOf } from '#core/service-levels/index.ts';
import { sayLeft, TONE } from '../parts/margin-bar.tsx';
import { StageMoon } from '../parts/stage-moon.tsx';
import { sayDate } from '../parts/words.ts';
import { Pager, usePages } from '../parts/pager.tsx';
import { useListKeys } from '../shell/keys.ts';
import { ordersApi } from './endpoints.ts';
import { Waiting } from '../shell/waiting.tsx';
import { Record } from './record.tsx';

const SHOWS = [
  ['open', 'Open'],
  ['finished', 'Finished'],
  ['all', 'All'],
] as const;

function Row({ order, chosen, to }: { order: OrderRow; chosen: boolean; to: string }) {
  return (
    <li
      className={`border-b border-hairline ${chosen ? 'bg-base-100 outline outline-1 -outline-offset-1 outline-base-content' : 'hover:bg-base-300/60'}`}
    >
      <Link to={to} className="grid grid-cols-[1.4rem_1fr] px-3 py-1.5" aria-current={chosen || undefined}>
        <span className="pt-0.5">
          <StageMoon stage={order.stage} />
        </span>
        <span className="min-w-0">
          <span className="flex justify-between gap-2">
            <span className="truncate font-semibold">{order.title}</span>
            <span className="serial shrink-0">{orderNumber(order.id)}</span>
          </span>
          <span className="quiet block truncate">
            <span className="serial">{order.tag}</span>
            {order.machines > 1 && ` and ${order.machines - 1} more`} · {order.customer}
          </span>
          {order.nextClock ? (
            <span className={`block truncate text-[0.87rem] ${TONE[marginOf(order.nextClock)]}`}>
              {order.nextClock.target} {sayLeft(order.nextClock)}
            </span>
          ) : order.due ? (
            <span className="quiet block">
              {order.kind}, due {sayDate(order.due)}
            </span>
          ) : (
            <span className="quiet block">
              {order.kind}, {order.stage}
            </span>
          )}
        </span>
      </Link>
    </li>
  );
}

function Chosen({ id }: { id: string }) {
  const query = ordersApi.useReadOrderQuery({ params: { id } }, { pollingInterval: 60_000 });
  return <Waiting query={{ ...query, data: query.currentData }}>{(order) => <Record order={order} />}</Waiting>;
}

type Show = (typeof SHOWS)[number][0];

function Head({
  show,
  kind,
  set,
  total,
}: {
  show: Show;
  kind: OrderKind | '';
  set: (key: 'show' | 'kind', value: string) => void;
  total: number | null;
}) {
  return (
    <header className="px-3 pt-5 pb-2">
      <h1>Orders</h1>
      <div className="mt-2 flex gap-2">
        <select aria-label="Show" className="box-select" value={show} onChange={(e) => set('show', e.target.value)}>
          {SHOWS.map(([v, t]) => (
            <option key={v} value={v}>
              {t}
            </option>
          ))}
        </select>
        <select aria-label="Kind" className="box-select" value={kind} onChange={(e) => set('kind', e.target.value)}>
          <option value="">Every kind</option>
          {ORDER_KINDS.map((k) => (
            <option key={k} value={k}>
              {k}
            </option>
          ))}
        </select>
      </div>
      <p className="quiet pt-1.5">
        {total !== null
          ? `${total} ${show === 'all' ? '' : show} ${kind ? `${kind} orders` : 'orders'}, newest first`
          : ' '}{' '}
        <a className="link-ink" href={`/api/orders.csv?show=${show}${kind ? `&kind=${kind}` : ''}`} download>
          CSV
        </a>
      </p>
    </header>
  );
}

export function OrdersRoom() {
  const { id } = useParams();
  const navigate = useNavigate();
  const [params, setParams] = useSearchParams();
  const show = (params.get('show') ?? 'open') as Show;
  const kind = (params.get('kind') ?? '') as OrderKind | '';
  const pages = usePages();
  const { after } = pages;
  const query = ordersApi.useListOrdersQuery({ query: { show, ...(kind && { kind }), ...(after && { after }) } });
  const items = query.data?.items ?? [];
  // Until one is chosen the first stands open.
  const shown = id ?? (items[0] && String(items[0].id));
  const chosen = items.findIndex((o) => String(o.id) === shown);
  const search = params.toString() ? `?${params.toString()}` : '';
  const go = (i: number): void => void (items[i] && navigate(`/orders/${items[i].id}${search}`));
  useListKeys(items.length, chosen, go);
  const set = (key: string, value: string): void => {
    pages.begin();
    setParams((old) => {
      if (value) old.set(key, value);
      else old.delete(key);
      return old;
    });
  };
  return (
    <div className="panes">
      <section aria-label="Work orders" className="pane w-[340px] border-r">
        <Head show={show} kind={kind} set={set} total={query.data?.total ?? null} />
        <div className="flex-1 overflow-y-auto border-t border-hairline">
          <Waiting query={query}>
            {(page) =>
              page.items.length === 0 ? (
                <p className="quiet p-3">
                  No {show === 'all' ? '' : show} {kind} order.{' '}
                  {(show !== 'open' || kind) && (
                    <button className="link-ink" onClick={() => setParams({})}>
                      Lift the filter
                    </button>
                  )}
                  {show === 'open' &&
                    !kind &&
                    'Orders are raised by an upkeep run, by alerts, or from an asset’s page.'}
                </p>
              ) : (
                <ul>
                  {page.items.map((o) => (
                    <Row key={o.id} order={o} chosen={String(o.id) === shown} to={`/orders/${o.id}${search}`} />
                  ))}
                </ul>
              )
            }
          </Waiting>
          <Pager pages={pages} next={query.data?.next} words={['Newer', 'Older']} className="p-3" />
        </div>
      </section>
      <div className="min-w-0 flex-1">
        {shown ? (
          <Chosen id={shown} key={shown} />
        ) : (
          <p className="quiet p-8">{query.data ? 'Nothing to show: no order answers the filter on the left.' : ' '}</p>
        )}
      </div>
    </div>
  );
}
