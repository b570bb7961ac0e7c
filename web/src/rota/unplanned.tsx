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

/** Orders that are ticked, for the house to plan. */
export type TickProps = {
  readonly ticked: readonly number[];
  readonly onTicked: (next: readonly number[]) => void;
  readonly onPlan: () => void;
};

function Ticked({ ticked, onTicked, onPlan }: TickProps) {
  if (ticked.length === 0) return null;
  return (
    <p className="flex items-center justify-between pb-1">
      <button className="link-ink" onClick={onPlan}>
        Plan the {ticked.length} ticked for me…
      </button>
      <button className="link-ink" onClick={() => onTicked([])}>
        Untick
      </button>
    </p>
  );
}

type OneProps = {
  readonly of: LooseOrder;
  readonly now: Instant;
  readonly zone: Zone;
  readonly isAt: boolean;
  /** Null: nobody may plan it here. */
  readonly ticks: TickProps | null;
  readonly onOpen: () => void;
};

function One({ of, now, zone, isAt, ticks, onOpen }: OneProps) {
  const isLate = of.latestStart !== null && of.latestStart < now;
  return (
    <li className={`flex border-t border-hairline ${isAt ? 'bg-base-300' : ''}`} aria-current={isAt || undefined}>
      {ticks && (
        <label className="grid w-7 shrink-0 cursor-pointer place-items-start pt-2.5 pl-1">
          <input
            type="checkbox"
            className="box-tick"
            aria-label={`Tick ${of.title}`}
            checked={ticks.ticked.includes(of.orderId)}
            onChange={(e) =>
              ticks.onTicked(
                e.target.checked ? [...ticks.ticked, of.orderId] : ticks.ticked.filter((id) => id !== of.orderId),
              )
            }
          />
        </label>
      )}
      <button className="block min-w-0 flex-1 px-1 py-1.5 text-left hover:bg-base-300/60" onClick={onOpen}>
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

const MOST_SHOWN = 200;

const More = ({ shown, show }: { shown: number; show: (() => void) | null }) => (
  <p className="quiet mt-2">
    The first {shown} by their due day.{' '}
    {show && (
      <button className="link-ink" onClick={show}>
        Show more
      </button>
    )}
  </p>
);

type UnplannedProps = {
  readonly query: Query;
  readonly ticks: TickProps | null;
  readonly now: Instant;
  readonly zone: Zone;
  readonly orderBy: OrderBy;
  readonly onOrderBy: (next: OrderBy) => void;
  readonly onOpen: (of: LooseOrder) => void;
};

export function Unplanned({ query, now, zone, orderBy, ticks, onOrderBy, onOpen }: UnplannedProps) {
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
          setAt(-1);
          setShow(next);
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
      {ticks && <Ticked {...ticks} />}
      <ErrorLine error={error} />
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
              <One
                key={of.orderId}
                of={of}
                now={now}
                zone={zone}
                isAt={items[at] === of}
                ticks={ticks}
                onOpen={() => onOpen(of)}
              />
            ))}
          </Fragment>
        ))}
      </ul>
      {data?.next && <More shown={items.length} show={limit < MOST_SHOWN ? () => setLimit(MOST_SHOWN) : null} />}
    </section>
  );
}
