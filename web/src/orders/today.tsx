// What Today shows of orders: running promises on one time axis, the chosen order beside them.
import { useState } from 'react';
import { scaleLinear } from 'd3-scale';
import { Link, useNavigate } from 'react-router';
import type { NearPromise, Promises } from '#api/orders.ts';
import { marginOf } from '#core/service-levels/index.ts';
import { HOUR, toWallTime, type Instant, type Zone } from '#core/time/index.ts';
import { sayMargin, TONE } from '../parts/margin-bar.tsx';
import { StageMoon } from '../parts/stage-moon.tsx';
import { plural, sayDate } from '../parts/words.ts';
import { useListKeys } from '../shell/keys.ts';
import { useReader } from '../shell/reader.tsx';
import { Beside } from '../shell/today-card.tsx';
import { Waiting } from '../shell/waiting.tsx';
import { ordersApi } from './endpoints.ts';
import { OrderGlance } from './glance.tsx';

type Axis = { readonly from: Instant; readonly to: Instant };
const share = (at: number, { from, to }: Axis): number => scaleLinear([from, to], [0, 100]).clamp(true)(at);
const percent = (n: number): string => `${n.toFixed(2)}%`;

function HourAxis({ axis, zone }: { axis: Axis; zone: Zone }) {
  const marks: { x: number; text: string; day: boolean }[] = [];
  for (let at = Math.ceil(axis.from / HOUR) * HOUR; at < axis.to; at += HOUR) {
    const wall = toWallTime(zone, at as Instant);
    const hour = wall.minutes / 60;
    if (hour === 0) marks.push({ x: share(at, axis), text: sayDate(wall.date).slice(0, -5), day: true });
    else if (hour === 12 || hour === 18)
      marks.push({ x: share(at, axis), text: String(hour).padStart(2, '0'), day: false });
  }
  return (
    <svg width="100%" height="16" aria-hidden="true" className="block overflow-visible">
      {marks
        .filter((m) => m.x < 94)
        .map((m) => (
          <text
            key={m.x}
            x={percent(m.x)}
            y="12"
            fontSize="11.5"
            textAnchor={m.day ? 'start' : 'middle'}
            fill={m.day ? 'currentColor' : 'var(--ink2)'}
            fontWeight={m.day ? 600 : 400}
          >
            {m.text}
          </text>
        ))}
    </svg>
  );
}

/** The run of one promise: used time in ink, what is left in the margin's tone, the target a flag; shut hours shaded. */
function PromiseLine({ promise, axis, now }: { promise: NearPromise; axis: Axis; now: Instant }) {
  const { clock, open } = promise;
  const margin = marginOf(clock);
  const [start, here] = [share(clock.startedAt, axis), share(now, axis)];
  const due = clock.dueAt === null ? null : share(clock.dueAt, axis);
  const late = margin === 'missed';
  return (
    <svg width="100%" height="34" aria-hidden="true" className={`block ${TONE[margin]}`}>
      <rect width="100%" height="34" fill="var(--shut)" />
      {open.map((o) => (
        <rect
          key={o.from}
          x={percent(share(o.from, axis))}
          width={percent(share(o.to, axis) - share(o.from, axis))}
          height="34"
          fill="var(--color-base-200)"
        />
      ))}
      <line
        x1={percent(start)}
        x2={percent(late && due !== null ? Math.max(start, due) : here)}
        y1="17"
        y2="17"
        stroke="var(--color-base-content)"
        strokeWidth="3"
        strokeDasharray={margin === 'paused' ? '3 3' : undefined}
      />
      {late && due !== null && (
        <rect
          x={percent(Math.max(due, 0))}
          y="12"
          width={percent(Math.max(0.4, here - due))}
          height="10"
          fill="currentColor"
        />
      )}
      {!late && due !== null && (
        <rect
          x={percent(here)}
          y="13"
          width={percent(Math.max(0, due - here))}
          height="8"
          fill="currentColor"
          fillOpacity="0.3"
        />
      )}
      {due !== null && due > 0 && due < 100 && (
        <svg x={percent(due)} overflow="visible">
          <path d="M-4 5H4L0 11Z" fill="currentColor" />
          <line x1="0" x2="0" y1="8" y2="24" stroke="currentColor" strokeWidth="2" />
        </svg>
      )}
      {due !== null && due >= 100 && (
        <svg x="100%" overflow="visible">
          <path d="M-10 12L-3 17L-10 22Z" fill="currentColor" />
        </svg>
      )}
      <line x1={percent(here)} x2={percent(here)} y1="0" y2="34" stroke="var(--color-base-content)" strokeWidth="1.2" />
    </svg>
  );
}

function PromiseTable({ near, chosen, choose }: { near: Promises; chosen: number; choose: (i: number) => void }) {
  const reader = useReader();
  const axis = { from: near.axisFrom, to: near.axisTo };
  if (near.promises.length === 0)
    return (
      <p className="quiet border-y border-hairline py-4">
        No promise is running. Repair orders under a service level appear here with the time that is left.
      </p>
    );
  return (
    <table className="w-full table-fixed border-collapse">
      <caption className="sr-only">Running promises, the one that ends first in front</caption>
      <thead>
        <tr className="align-bottom">
          <th className="w-6" aria-label="Stage" />
          <th className="pb-1 text-left text-[0.95rem] font-semibold">Promises, nearest first</th>
          <th className="w-[42%] pb-1 font-normal max-sm:hidden" aria-label="Time line">
            <HourAxis axis={axis} zone={reader.zone} />
          </th>
          <th className="w-[22%] max-sm:w-[42%]" aria-label="Margin" />
        </tr>
      </thead>
      <tbody>
        {near.promises.map(({ order, clock, ...rest }, i) => (
          <tr
            key={order.id}
            className={`cursor-pointer border-t border-hairline ${i === chosen ? 'bg-base-100 outline outline-1 -outline-offset-1 outline-base-content' : 'hover:bg-base-300/60'}`}
            aria-selected={i === chosen}
            onClick={() => choose(i)}
          >
            <td className="pt-1.5 pl-2 align-top">
              <StageMoon stage={order.stage} />
            </td>
            <td className="py-1 pl-2 pr-3">
              <button className="block max-w-full truncate text-left font-semibold" onClick={() => choose(i)}>
                {order.title} <span className="serial font-normal">{order.tag}</span>
              </button>
              <span className="quiet block max-w-72 truncate" title={`${order.customer} · ${order.place}`}>
                {order.customer} · {order.place}
              </span>
            </td>
            <td className="p-0 max-sm:hidden">
              <PromiseLine promise={{ order, clock, ...rest }} axis={axis} now={near.now} />
            </td>
            <td className={`px-2 py-1 text-[0.9rem] leading-tight ${TONE[marginOf(clock)]}`}>
              <span className="font-semibold">{clock.target}</span> {sayMargin(clock, near.now, reader.zone)}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** Asked again each minute: what runs moves on by itself. */
const usePromises = () => ordersApi.useReadPromisesQuery(undefined, { pollingInterval: 60_000 });

export function PromisesSummary() {
  const { data } = usePromises();
  if (!data) return null;
  const { missed, short, enough, paused } = data.counts;
  return (
    <>
      {missed > 0 && <span className="text-missed">✕ {plural(missed, 'promise')} missed</span>}
      {short > 0 && <span className="text-short">▲ {short} running short</span>}
      <span className="text-ink2">{enough} with time enough</span>
      {paused > 0 && <span className="text-ink2">{paused} paused</span>}
    </>
  );
}

function Near({ near }: { near: Promises }) {
  const navigate = useNavigate();
  const [chosenId, setChosenId] = useState<number | null>(null);
  const found = near.promises.findIndex((p) => p.order.id === chosenId);
  const chosen = found >= 0 ? found : near.promises.length > 0 ? 0 : -1;
  const choose = (i: number): void => setChosenId(near.promises[i]?.order.id ?? null);
  useListKeys(near.promises.length, chosen, choose, (i) => void navigate(`/orders/${near.promises[i]?.order.id}`));
  const shown = near.promises[chosen];
  return (
    <>
      <PromiseTable near={near} chosen={chosen} choose={choose} />
      {near.morePromises > 0 && (
        <p className="quiet px-2 py-2">
          {plural(near.morePromises, 'more order')} with promises further away ·{' '}
          <Link className="link-ink" to="/clocks">
            all clocks at work
          </Link>
        </p>
      )}
      {shown && (
        <Beside label="Chosen order">
          <OrderGlance id={shown.order.id} />
        </Beside>
      )}
    </>
  );
}

export function PromisesCard() {
  return <Waiting query={usePromises()}>{(near) => <Near near={near} />}</Waiting>;
}
