// Orders: the worklist on the left, the record on the right.
import { Link, useNavigate, useParams, useSearchParams } from 'react-router';
import type { OrderPage, OrderRow } from '#api/orders.ts';
import { orderNumber } from '#api/shapes.ts';
import { ORDER_KINDS, type OrderKind } from '#core/orders/index.ts';
import { marginOf } from '#core/service-levels/index.ts';
import { type Zone } from '#core/time/index.ts';
import { MarginBar, sayLeft, TONE } from '../parts/margin-bar.tsx';
import { StageMoon } from '../parts/stage-moon.tsx';
import { CoverVerdict, Reminders } from '../parts/verdict.tsx';
import { sayDate, sayMinutes, sayMoment, sayMoney, sayZone } from '../parts/words.ts';
import { Pager, usePages } from '../parts/pager.tsx';
import { useListKeys } from '../shell/keys.ts';
import { useReader } from '../shell/reader.tsx';
import { ordersApi } from './endpoints.ts';
import { Waiting } from '../shell/waiting.tsx';
import { Tasks } from './tasks.tsx';
import { ActButtons } from './acts.tsx';
import { OrderForms } from './forms.tsx';

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
            <span className="serial">{order.tag}</span> · {order.customer}
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

/** What the work took, as told when it was done. Costs are shown to those who see prices. */
function Took({ took }: { took: NonNullable<OrderPage['took']> }) {
  const rows = [
    ['Fault', took.fault],
    ['Labour', took.labourMinutes === null ? null : sayMinutes(took.labourMinutes)],
    ['Parts', took.partsCost === null ? null : sayMoney(took.partsCost, 'EUR')],
    ['Other', took.otherCost === null ? null : sayMoney(took.otherCost, 'EUR')],
  ] as const;
  return (
    <section>
      <h2>What it took</h2>
      <dl className="mt-1 grid grid-cols-[6rem_1fr] border-y border-hairline py-1">
        {rows.flatMap(([name, value]) =>
          value === null
            ? []
            : [
                <dt key={`${name} name`} className="quiet">
                  {name}
                </dt>,
                <dd key={name} className="tabular-nums first-letter:uppercase">
                  {value}
                </dd>,
              ],
        )}
      </dl>
    </section>
  );
}

function Record({ order }: { order: OrderPage }) {
  const reader = useReader();
  const zone = order.zone as Zone;
  return (
    <article className="max-w-5xl px-7 pt-5 pb-10">
      <p className="quiet">
        Work order <span className="serial">{orderNumber(order.id)}</span> · {order.kind} · priority {order.priority} ·{' '}
        <Link className="link-ink" to={`/register?customer=${order.customer.id}`}>
          {order.customer.name}
        </Link>
      </p>
      {order.caller && (
        <p className="quiet">
          Called by {order.caller.name}
          {order.caller.phone && (
            <>
              ,{' '}
              <a className="link-ink" href={`tel:${order.caller.phone}`}>
                {order.caller.phone}
              </a>
            </>
          )}
          {order.caller.email && `, ${order.caller.email}`}
        </p>
      )}
      <header className="flex flex-wrap items-center gap-x-3">
        <StageMoon stage={order.stage} size={22} />
        <h1>{order.title}</h1>
        <span className="text-ink2">
          {order.stage}
          {order.pausedSince ? ', paused' : ''}
          {order.technician ? `, ${order.technician}` : ''}
          {order.plannedFor && order.stage !== 'done' ? `, planned for ${sayDate(order.plannedFor)}` : ''}
        </span>
      </header>
      <div className="mt-3">
        <ActButtons order={order} />
      </div>
      {order.clocks.length > 0 && (
        <section className="mt-5 grid grid-cols-3 gap-6 border-y border-hairline py-3" aria-label="Clocks">
          {order.clocks.map((c) => (
            <div key={`${c.target}${c.assetId}`}>
              <h2 className="first-letter:uppercase">
                {c.target}{' '}
                <span className="quiet font-normal">
                  {sayMinutes(c.promisedMinutes)}, {c.measure}
                </span>
              </h2>
              <MarginBar clock={c} now={order.now} reader={reader.zone} />
            </div>
          ))}
        </section>
      )}
      <div className="mt-5 grid grid-cols-[1fr_1fr] gap-x-10 gap-y-6">
        <div className="space-y-6">
          {order.verdict && (
            <section>
              <h2>Cover, as decided when raised</h2>
              <CoverVerdict {...order.verdict} />
              <Reminders texts={order.reminders} />
            </section>
          )}
          {order.visit && (
            <section>
              <h2>Upkeep visit</h2>
              <p>
                Owed under{' '}
                <Link className="link-ink" to={`/agreements/${order.visit.agreementId}`}>
                  {order.visit.agreement}
                </Link>
                : due {sayDate(order.visit.due)}, in time from {sayDate(order.visit.windowFrom)} to{' '}
                {sayDate(order.visit.windowTo)}.
                {order.visit.completedOn
                  ? ` Done ${sayDate(order.visit.completedOn)}${order.visit.completedOn >= order.visit.windowFrom && order.visit.completedOn <= order.visit.windowTo ? ', in window' : ', outside its window'}.`
                  : ''}{' '}
                {order.minutes ? `Planned for ${sayMinutes(order.minutes)}.` : ''}
              </p>
              {order.visit.beyond && (
                <p>
                  <strong className="font-semibold">Not borne by {order.visit.agreement}:</strong> {order.visit.beyond}.
                </p>
              )}
            </section>
          )}
          <section>
            <h2>Assets</h2>
            {order.lines.map((l) => (
              <p key={l.id}>
                {l.className} {l.model}{' '}
                <Link className="serial link-ink" to={`/assets/${l.assetId}`}>
                  {l.tag}
                </Link>{' '}
                <span className="quiet">
                  <span className="serial">{l.serial}</span> · {l.place}
                </span>
              </p>
            ))}
            <p className="quiet mt-1">
              {order.address ? (
                <>
                  {order.address.value} (from {order.address.from})
                </>
              ) : (
                'No address is known: give one to the place or the customer.'
              )}
            </p>
          </section>
          {order.took && <Took took={order.took} />}
          <Tasks order={order} />
          <OrderForms order={order} />
        </div>
        <section>
          <h2>
            What happened <span className="quiet font-normal">in {sayZone(zone)} time</span>
          </h2>
          <table className="dense mt-1">
            <tbody>
              {order.events.map((e) => (
                <tr key={e.id}>
                  <td className="quiet w-20 whitespace-nowrap">{sayMoment(e.at, order.now, zone)}</td>
                  <td>
                    {e.text}
                    {e.recordedAt - e.at > 5 * 60_000 && (
                      <span className="quiet"> · recorded {sayMoment(e.recordedAt, order.now, zone)}</span>
                    )}
                  </td>
                  <td className="quiet whitespace-nowrap">{e.who ?? 'by itself'}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      </div>
    </article>
  );
}

function Chosen({ id }: { id: string }) {
  const query = ordersApi.useReadOrderQuery({ params: { id } }, { pollingInterval: 60_000 });
  return <Waiting query={{ ...query, data: query.currentData }}>{(order) => <Record order={order} />}</Waiting>;
}

export function OrdersRoom() {
  const { id } = useParams();
  const navigate = useNavigate();
  const [params, setParams] = useSearchParams();
  const show = (params.get('show') ?? 'open') as 'open' | 'finished' | 'all';
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
            {query.data
              ? `${query.data.total} ${show === 'all' ? '' : show} ${kind ? `${kind} orders` : 'orders'}, newest first`
              : ' '}{' '}
            <a className="link-ink" href={`/api/orders.csv?show=${show}${kind ? `&kind=${kind}` : ''}`} download>
              CSV
            </a>
          </p>
        </header>
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
