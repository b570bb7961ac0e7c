// Orders: the worklist on the left, the record on the right.
import { Link, useNavigate, useParams, useSearchParams } from 'react-router';
import { useState } from 'react';
import { actOnMany } from '#api/order-lists.ts';
import { type OrderRow } from '#api/orders.ts';
import { orderNumber } from '#api/shapes.ts';
import { marginOf } from '#core/service-levels/index.ts';
import { sayLeft, TONE } from '../parts/margin-bar.tsx';
import { StageMoon } from '../parts/stage-moon.tsx';
import { sayDate } from '../parts/words.ts';
import { Pager, usePages } from '../parts/pager.tsx';
import { useListKeys } from '../shell/keys.ts';
import { BulkActs } from './bulk.tsx';
import { ordersApi } from './endpoints.ts';
import { filterOf, ListHead } from './list-head.tsx';
import { useReader } from '../shell/reader.tsx';
import { Waiting } from '../shell/waiting.tsx';
import { Record } from './record.tsx';

function Row({
  order,
  chosen,
  to,
  tick,
}: {
  order: OrderRow;
  chosen: boolean;
  to: string;
  /** Null: nobody acts on many here. */
  tick: { readonly is: boolean; readonly set: (on: boolean) => void } | null;
}) {
  return (
    <li
      className={`flex border-b border-hairline ${chosen ? 'bg-base-100 outline outline-1 -outline-offset-1 outline-base-content' : 'hover:bg-base-300/60'}`}
    >
      {tick && (
        <label className="mt-0.5 ml-1.5 flex size-7 shrink-0 cursor-pointer items-center justify-center">
          <input
            type="checkbox"
            className="box-tick"
            aria-label={`Tick ${orderNumber(order.id)}`}
            checked={tick.is}
            onChange={(e) => tick.set(e.target.checked)}
          />
        </label>
      )}
      <Link
        to={to}
        className="grid min-w-0 flex-1 grid-cols-[1.4rem_1fr] py-1.5 pr-3 pl-1.5"
        aria-current={chosen || undefined}
      >
        <span className="pt-0.5">
          <StageMoon stage={order.stage} />
        </span>
        <span className="min-w-0">
          <span className="flex justify-between gap-2">
            <span className="truncate font-semibold">{order.title}</span>
            <span className="serial shrink-0">{orderNumber(order.id)}</span>
          </span>
          <span className="quiet block truncate">
            {order.tag ? <span className="serial">{order.tag}</span> : order.place}
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
              {order.waitingFor && `, waiting: ${order.waitingFor}`}
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

/** On a phone an order stands instead of its list. */
const BackToList = ({ search }: { search: string }) => (
  <Link className="pane-back link-ink" to={`/orders${search}`}>
    ‹ All orders
  </Link>
);

export function OrdersRoom() {
  const { id } = useParams();
  const navigate = useNavigate();
  const [params, setParams] = useSearchParams();
  const pages = usePages();
  const { after } = pages;
  const filter = filterOf(params);
  const query = ordersApi.useListOrdersQuery({ query: { ...filter, ...(after && { after }) } });
  const items = query.data?.items ?? [];
  const [ticked, setTicked] = useState<ReadonlySet<number>>(new Set());
  const mayAct = useReader().may(actOnMany);
  // Until one is chosen the first stands open.
  const shown = id ?? (items[0] && String(items[0].id));
  const chosen = items.findIndex((o) => String(o.id) === shown);
  const search = params.toString() ? `?${params.toString()}` : '';
  const go = (i: number): void => void (items[i] && navigate(`/orders/${items[i].id}${search}`));
  useListKeys(items.length, chosen, go);
  const set = (next: URLSearchParams): void => {
    pages.begin();
    setTicked(new Set());
    setParams(next);
  };
  const tickOf = (one: number) => ({
    is: ticked.has(one),
    set: (on: boolean) => setTicked(new Set(on ? [...ticked, one] : [...ticked].filter((x) => x !== one))),
  });
  return (
    <div className="panes" data-open={id !== undefined}>
      <section aria-label="Work orders" className="pane w-[340px] border-r">
        <ListHead params={params} set={set} counted={query.data} />
        {ticked.size > 0 && <BulkActs ids={[...ticked]} onDone={() => setTicked(new Set())} />}
        <div className="flex-1 overflow-y-auto border-t border-hairline">
          <Waiting query={query}>
            {(page) =>
              page.items.length === 0 ? (
                <p className="quiet p-3">
                  No order answers.{' '}
                  {params.size > 0 ? (
                    <button className="link-ink" onClick={() => set(new URLSearchParams())}>
                      Lift the filter
                    </button>
                  ) : (
                    'Orders are raised by an upkeep run, by alerts, or from a call.'
                  )}
                </p>
              ) : (
                <ul>
                  {page.items.map((o) => (
                    <Row
                      key={o.id}
                      order={o}
                      chosen={String(o.id) === shown}
                      to={`/orders/${o.id}${search}`}
                      tick={mayAct ? tickOf(o.id) : null}
                    />
                  ))}
                </ul>
              )
            }
          </Waiting>
          <Pager
            pages={pages}
            next={query.data?.next}
            words={(filter.sort ?? 'newest') === 'newest' ? ['Newer', 'Older'] : ['Before', 'Further']}
            className="p-3"
          />
        </div>
      </section>
      <div className="min-w-0 flex-1">
        <BackToList search={search} />
        {shown ? (
          <Chosen id={shown} key={shown} />
        ) : (
          <p className="quiet p-8">{query.data ? 'Nothing to show: no order answers the filter on the left.' : ' '}</p>
        )}
      </div>
    </div>
  );
}
