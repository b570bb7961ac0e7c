// Work that nobody is planned for, as a list: what is ready apart from what waits and why, what is due first in front.
import { Fragment, useEffect, useRef, useState } from 'react';
import { Link } from 'react-router';
import type { LooseOrder } from '#api/rota.ts';
import type { Instant, Zone } from '#core/time/index.ts';
import { ErrorLine } from '../parts/problem.tsx';
import { sayDate, sayMinutes, sayMoment } from '../parts/words.ts';
import { useListKeys } from '../shell/keys.ts';
import { rotaApi } from './endpoints.ts';
import { grouped, ORDER_WORDS, ORDERS_BY, readOrderBy, type OrderBy } from './order-by.ts';
import { sayWaits } from './waits.ts';

type Query = Readonly<Record<string, string>>;
type Show = 'ready' | 'late' | 'waiting';
const WORDS: Readonly<Record<Show, string>> = { ready: 'Ready', late: 'Late', waiting: 'Waiting' };
const NOTHING: Readonly<Record<Show, string>> = {
  ready: 'Everything that is ready is planned.',
  late: 'Nothing went by its time.',
  waiting: 'Nothing waits for anything.',
};

/** Until when somebody must leave, or since when it is too late. */
export function sayUrgency(of: LooseOrder, now: Instant, zone: Zone): string {
  if (of.waitingFor) return sayWaits(of);
  if (of.latestStart === null) return of.wishedOn ? `wished for ${sayDate(of.wishedOn)}` : 'no promise';
  if (of.latestStart >= now) return `leave by ${sayMoment(of.latestStart, now, zone)}`;
  return of.clocks.length > 0
    ? `should have left by ${sayMoment(of.latestStart, now, zone)}`
    : `its window closed ${sayMoment(of.latestStart, now, zone)}`;
}

function One({
  of,
  now,
  zone,
  isAt,
  onOpen,
}: {
  of: LooseOrder;
  now: Instant;
  zone: Zone;
  isAt: boolean;
  onOpen: () => void;
}) {
  const isLate = of.latestStart !== null && of.latestStart < now;
  return (
    <li className={`border-t border-hairline ${isAt ? 'bg-base-300' : ''}`} aria-current={isAt || undefined}>
      <button className="block w-full px-1 py-1.5 text-left hover:bg-base-300/60" onClick={onOpen}>
        <span className="flex items-baseline justify-between gap-2">
          <span className="min-w-0 overflow-hidden font-semibold text-ellipsis whitespace-nowrap">{of.title}</span>
          <span className="quiet shrink-0 tabular-nums">{sayMinutes(of.minutes)}</span>
        </span>
        <span className="quiet block overflow-hidden text-ellipsis whitespace-nowrap">
          {[of.place.split(' · ')[0], of.customer, ...of.skills].join(' · ')}
        </span>
        <span className={`block text-[0.87rem] ${isLate ? 'text-missed' : ''}`}>
          {sayUrgency(of, now, zone)}
          {of.wentBy && ', an appointment went by'}
        </span>
      </button>
    </li>
  );
}

function Tabs({
  show,
  counts,
  onShow,
}: {
  show: Show;
  counts: Readonly<Record<Show, number>> | undefined;
  onShow: (next: Show) => void;
}) {
  return (
    <div role="tablist" aria-label="Work to be planned" className="mt-2 flex gap-4 border-b border-hairline">
      {(Object.keys(WORDS) as Show[]).map((key) => (
        <button
          key={key}
          role="tab"
          aria-selected={show === key}
          className={`-mb-px border-b-2 pb-1 ${show === key ? 'border-base-content font-semibold' : 'border-transparent'}`}
          onClick={() => onShow(key)}
        >
          {WORDS[key]} {!counts ? '' : counts[key] >= 1000 ? '1,000+' : counts[key]}
        </button>
      ))}
    </div>
  );
}

function InOrder({ of, onChoose }: { of: OrderBy; onChoose: (next: OrderBy) => void }) {
  return (
    <select
      aria-label="In which order"
      className="border-b border-hairline bg-transparent"
      value={of}
      onChange={(e) => onChoose(readOrderBy(e.target.value))}
    >
      {ORDERS_BY.map((o) => (
        <option key={o} value={o}>
          {ORDER_WORDS[o]}
        </option>
      ))}
    </select>
  );
}

export function Unplanned({
  query,
  now,
  zone,
  orderBy,
  onOrderBy,
  onOpen,
}: {
  query: Query;
  now: Instant;
  zone: Zone;
  orderBy: OrderBy;
  onOrderBy: (next: OrderBy) => void;
  onOpen: (of: LooseOrder) => void;
}) {
  const [show, setShow] = useState<Show>('ready');
  const [limit, setLimit] = useState(40);
  const [at, setAt] = useState(-1);
  const { data, error } = rotaApi.useReadLooseQuery({ query: { ...query, show, limit: String(limit) } });
  const groups = grouped(data?.items ?? [], orderBy);
  const items = groups.flatMap((g) => g.items);
  useListKeys(items.length, at, setAt);
  const list = useRef<HTMLUListElement>(null);
  // What is walked to has the keys: Enter opens it.
  useEffect(() => {
    list.current?.querySelectorAll('button')[at]?.focus();
  }, [at]);
  return (
    <section aria-label="Work to be planned">
      <h1 className="text-[1.25rem]">To be planned</h1>
      <Tabs
        show={show}
        counts={data}
        onShow={(next) => {
          setShow(next);
          setAt(-1);
        }}
      />
      <p className="mt-1 flex items-center justify-between">
        <InOrder
          of={orderBy}
          onChoose={(next) => {
            setAt(-1);
            onOrderBy(next);
          }}
        />
        <Link className="link-ink" to="/rota/map">
          Map
        </Link>
      </p>
      {error && <ErrorLine error={error} />}
      {data && items.length === 0 && <p className="quiet mt-2">{NOTHING[show]}</p>}
      <ul ref={list}>
        {groups.map((g) => (
          <Fragment key={g.name ?? ''}>
            {g.name !== null && (
              <li className="border-t border-hairline pt-3 pb-0.5 text-[0.9rem] font-semibold">
                {g.name} <span className="quiet font-normal">{g.items.length}</span>
              </li>
            )}
            {g.items.map((of) => (
              <One key={of.orderId} of={of} now={now} zone={zone} isAt={items[at] === of} onOpen={() => onOpen(of)} />
            ))}
          </Fragment>
        ))}
      </ul>
      {data?.next && (
        <p className="quiet mt-2">
          The first {items.length} by their due day.{' '}
          {limit < 200 && (
            <button className="link-ink" onClick={() => setLimit(200)}>
              Show more
            </button>
          )}
        </p>
      )}
    </section>
  );
}
