// The columns of the journal of alerts.
import { scaleLinear } from 'd3-scale';
import { Link } from 'react-router';
import type { AlertOut } from '#api/signals.ts';
import { orderNumber } from '#api/shapes.ts';
import { DAY, formatInstant, sayLength, type Instant, type Zone } from '#core/time/index.ts';
import type { Column } from '../parts/table/index.ts';
import { sayMoment } from '../parts/words.ts';

/** A day on a line, up to now: a bar while it was active, a notch where somebody acknowledged it. */
function Trace({ of, now }: { of: AlertOut; now: Instant }) {
  const x = scaleLinear([now - DAY, now], [0, 120]).clamp(true);
  const [from, to] = [x(of.startedAt), x(of.endedAt ?? now)];
  return (
    <svg width="124" height="16" viewBox="-2 0 124 16" aria-hidden="true">
      <line x1="0" x2="120" y1="8" y2="8" stroke="var(--hairline)" />
      <rect
        x={from}
        y={of.toldAt === null ? 6.5 : 4}
        width={Math.max(2, to - from)}
        height={of.toldAt === null ? 3 : 8}
        fill={of.withdrawn ? 'none' : 'currentColor'}
        stroke="currentColor"
        strokeWidth="1"
      />
      {of.acknowledged && (
        <line
          x1={x(of.acknowledged.at)}
          x2={x(of.acknowledged.at)}
          y1="0"
          y2="16"
          stroke="currentColor"
          strokeWidth="1.5"
        />
      )}
      <line x1="120" x2="120" y1="1" y2="15" stroke="var(--ink2)" strokeDasharray="2 2" />
    </svg>
  );
}

/** How an alert stands, in words. */
function sayStanding(a: AlertOut, now: Instant, zone: Zone): string {
  if (a.withdrawn) return 'withdrawn: told late, there was none';
  if (a.toldAt === null && a.shelf)
    return `shelved until ${sayMoment(a.shelf.until, now, zone)} by ${a.shelf.by}: ${a.shelf.reason}`;
  if (a.toldAt === null && a.heldBy === 'part') return 'a part of other rules';
  if (a.toldAt === null)
    return a.heldBy === 'suppressed' ? 'held back by another alert of the machine' : 'was held back';
  const gone = a.endedAt === null ? '' : 'gone, ';
  if (a.acknowledged) return `${gone}acknowledged ${sayMoment(a.acknowledged.at, now, zone)} by ${a.acknowledged.by}`;
  return `${gone}not acknowledged`;
}

export type Acts = {
  readonly choose: (id: number) => void;
  readonly acknowledge: ((a: AlertOut) => void) | null;
  readonly shelve: ((a: AlertOut) => void) | null;
  readonly unshelve: (a: AlertOut) => void;
  readonly raise: ((a: AlertOut) => void) | null;
};

function OrderOf({ a, raise }: { a: AlertOut; raise: Acts['raise'] }) {
  if (a.orderId !== null)
    return (
      <>
        <Link className="serial link-ink" to={`/orders/${a.orderId}`}>
          {orderNumber(a.orderId)}
        </Link>
        {(a.joined || a.flooded) && <span className="quiet block">{a.flooded ? 'of the whole place' : 'joined'}</span>}
      </>
    );
  return (
    <>
      {a.noOrder ? (
        <span className="block text-missed">✕ {a.noOrder}</span>
      ) : (
        <span className="quiet">{a.asks ? 'asks first' : 'none'}</span>
      )}
      {raise && !a.withdrawn && (a.asks || a.noOrder !== null) && (
        <button className="link-ink block" onClick={() => raise(a)}>
          raise it
        </button>
      )}
    </>
  );
}

function ActsOf({ a, acts }: { a: AlertOut; acts: Acts }) {
  return (
    <span className="flex gap-3 whitespace-nowrap">
      {acts.acknowledge && a.toldAt !== null && !a.acknowledged && !a.withdrawn && (
        <button className="link-ink" onClick={() => acts.acknowledge?.(a)}>
          acknowledge
        </button>
      )}
      {acts.shelve &&
        !a.withdrawn &&
        (a.shelf ? (
          <button className="link-ink" onClick={() => acts.unshelve(a)}>
            off the shelf
          </button>
        ) : (
          <button className="link-ink" onClick={() => acts.shelve?.(a)}>
            shelve
          </button>
        ))}
    </span>
  );
}

export const alertColumns = (now: Instant, zone: Zone, acts: Acts): Column<AlertOut>[] => [
  {
    id: 'alert',
    head: 'Alert',
    value: (a) => a.rule,
    show: (a) => (
      <>
        <button className="text-left font-semibold" onClick={() => acts.choose(a.id)}>
          {a.endedAt === null ? '◆ ' : '◇ '}
          {a.rule}
        </button>
        <span className="quiet block">
          {a.text}
          {a.chatters && ' · chattering'}
        </span>
      </>
    ),
  },
  {
    id: 'asset',
    head: 'Machine and place',
    value: (a) => `${a.tag}, ${a.customer}, ${a.place}`,
    show: (a) => (
      <>
        {a.model}{' '}
        <Link className="serial link-ink" to={`/assets/${a.assetId}`}>
          {a.tag}
        </Link>
        <span className="quiet block">
          {a.customer}, {a.place}
        </span>
      </>
    ),
  },
  {
    id: 'since',
    head: 'Since',
    value: (a) => formatInstant(a.startedAt),
    show: (a) => (
      <>
        {sayMoment(a.startedAt, now, zone)}
        <span className="quiet block">
          {a.endedAt === null ? 'still active' : `for ${sayLength(a.endedAt - a.startedAt)}`}
        </span>
      </>
    ),
    className: 'whitespace-nowrap',
  },
  {
    id: 'trace',
    head: '',
    drawnHead: <span className="quiet">the last day</span>,
    show: (a) => <Trace of={a} now={now} />,
    width: 140,
  },
  { id: 'standing', head: 'How it stands', value: (a) => sayStanding(a, now, zone) },
  {
    id: 'order',
    head: 'Order',
    value: (a) => (a.orderId === null ? null : orderNumber(a.orderId)),
    show: (a) => <OrderOf a={a} raise={acts.raise} />,
  },
  {
    id: 'acts',
    head: '',
    show: (a) => <ActsOf a={a} acts={acts} />,
  },
];
