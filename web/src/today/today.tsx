// Today: what needs somebody now, promises first on one time axis, then decisions, visits and alerts.
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { writeAgreement } from '#api/agreements.ts';
import type { Today, TodayPromise } from '#api/today.ts';
import { orderNumber } from '#api/shapes.ts';
import { marginOf } from '#core/service-levels/index.ts';
import { HOUR, toWallTime, type Instant, type Zone } from '#core/time/index.ts';
import { sayMargin, TONE } from '../parts/margin-bar.tsx';
import { StageMoon } from '../parts/stage-moon.tsx';
import { plural, sayDate, sayMoment, sayShortDate } from '../parts/words.ts';
import { useListKeys } from '../shell/keys.ts';
import { useReader } from '../shell/reader.tsx';
import { agreementsApi } from '../agreements/index.ts';
import { customersApi } from '../customers/index.ts';
import { setupApi } from '../setup/index.ts';
import { todayApi } from './endpoints.ts';
import { Waiting } from '../shell/waiting.tsx';
import { OrderGlance } from '../orders/index.ts';

type Axis = { readonly from: Instant; readonly to: Instant };
const share = (at: number, { from, to }: Axis): number => Math.min(100, Math.max(0, ((at - from) / (to - from)) * 100));
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
function PromiseLine({ promise, axis, now }: { promise: TodayPromise; axis: Axis; now: Instant }) {
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

function Promises({ today, chosen, choose }: { today: Today; chosen: number; choose: (i: number) => void }) {
  const reader = useReader();
  const axis = { from: today.axisFrom, to: today.axisTo };
  if (today.promises.length === 0)
    return (
      <p className="quiet border-y border-hairline py-4">
        No promise is running. Repair orders under a service level appear here with the time that is left.
      </p>
    );
  return (
    <table className="w-full border-collapse">
      <caption className="sr-only">Running promises, the one that ends first in front</caption>
      <thead>
        <tr className="align-bottom">
          <th className="w-6" aria-label="Stage" />
          <th className="pb-1 text-left text-[0.95rem] font-semibold">Promises, nearest first</th>
          <th className="w-[42%] pb-1 font-normal" aria-label="Time line">
            <HourAxis axis={axis} zone={reader.zone} />
          </th>
          <th className="w-[22%]" aria-label="Margin" />
        </tr>
      </thead>
      <tbody>
        {today.promises.map(({ order, clock, ...rest }, i) => (
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
            <td className="p-0">
              <PromiseLine promise={{ order, clock, ...rest }} axis={axis} now={today.now} />
            </td>
            <td className={`px-2 py-1 text-[0.9rem] leading-tight ${TONE[marginOf(clock)]}`}>
              <span className="font-semibold">{clock.target}</span> {sayMargin(clock, today.now, reader.zone)}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Decisions({ today }: { today: Today }) {
  const { upkeep } = today;
  const rows: [string, string, React.ReactNode][] = [];
  if (upkeep.proposed + upkeep.held > 0)
    rows.push([
      'Upkeep to raise',
      plural(upkeep.proposed, 'visit'),
      <Link className="link-ink" to={`/upkeep?to=${upkeep.to}`} key="u">
        look through and raise{upkeep.held > 0 ? `, ${upkeep.held} held` : ''}
      </Link>,
    ]);
  if (upkeep.needsCare > 0)
    rows.push([
      'Schedules that yield nothing',
      String(upkeep.needsCare),
      <span key="n">
        {upkeep.reasons
          .slice(0, 3)
          .map((r) => `${r.text}${r.count > 1 ? ` (${r.count} ×)` : ''}`)
          .join(' · ')}{' '}
        <Link className="link-ink" to={`/upkeep?to=${upkeep.to}&show=nothing`}>
          all
        </Link>
      </span>,
    ]);
  for (const n of today.notices)
    rows.push([
      'Notice date',
      sayDate(n.noticeBy),
      <span key={n.agreementId}>
        <Link className="link-ink" to={`/agreements/${n.agreementId}`}>
          {n.number} {n.name}
        </Link>{' '}
        · {n.customer}
      </span>,
    ]);
  return rows.length === 0 ? null : (
    <section className="mt-7">
      <h2 className="pb-1.5">Waiting for a decision</h2>
      <table className="dense">
        <tbody>
          {rows.map(([what, figure, more], i) => (
            <tr key={i}>
              <th scope="row" className="w-56 border-hairline! text-base-content!">
                {what}
              </th>
              <td className="w-40">{figure}</td>
              <td className="quiet">{more}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

/** What the reader was told about agreements they look after, until they put it away. */
function OwnNotices({ today }: { today: Today }) {
  const [see] = agreementsApi.useSeeNoticeMutation();
  if (today.ownNotices.length === 0) return null;
  return (
    <section className="mt-7" aria-label="For you">
      <h2 className="pb-1.5">For you, who look after them</h2>
      <ul className="border-t border-hairline">
        {today.ownNotices.map((n) => (
          <li key={n.id} className="flex items-baseline gap-3 border-b border-hairline py-1.5">
            <span className="flex-1">
              <Link className="link-ink" to={`/agreements/${n.agreementId}`}>
                {n.number} {n.name}
              </Link>{' '}
              <span className="quiet">{n.customer}</span> {n.text}
            </span>
            <Link className="link-ink" to="/agreements/renewals">
              decide
            </Link>
            <button className="link-ink" onClick={() => void see({ params: { id: String(n.id) } })}>
              put away
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}

function Visits({ today }: { today: Today }) {
  if (today.visitsEnding.length === 0) return null;
  return (
    <section className="mt-7">
      <h2 className="pb-1.5">Visits whose window ends within a week</h2>
      <table className="dense">
        <tbody>
          {today.visitsEnding.map((v) => (
            <tr key={v.orderId}>
              <td className="w-56">
                <Link className="link-ink" to={`/orders/${v.orderId}`}>
                  {v.label}
                </Link>{' '}
                <span className="quiet">{orderNumber(v.orderId)}</span>
              </td>
              <td>
                {v.model} <span className="serial">{v.tag}</span> <span className="quiet">{v.customer}</span>
              </td>
              <td className={v.late ? 'text-missed' : ''}>
                {v.late ? 'window over since' : 'until'} {sayDate(v.windowTo)}
              </td>
              <td className="quiet w-20">{v.stage}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

function Alerts({ today, zone }: { today: Today; zone: Zone }) {
  return (
    <section className="mt-7 pb-8">
      <h2 className="pb-1.5">Active alerts</h2>
      {today.alerts.length === 0 ? (
        <p className="quiet border-y border-hairline py-2">None: no machine that reports is beyond its limits.</p>
      ) : (
        <table className="dense">
          <tbody>
            {today.alerts.map((a) => (
              <tr key={a.id}>
                <td className="w-[38%] font-semibold">{a.text}</td>
                <td>
                  {a.model}{' '}
                  <Link className="serial link-ink" to={`/assets/${a.assetId}`}>
                    {a.tag}
                  </Link>
                </td>
                <td className="quiet">active since {sayMoment(a.startedAt, today.now, zone)}</td>
                <td className="quiet">
                  {a.orderId ? (
                    <Link className="link-ink" to={`/orders/${a.orderId}`}>
                      {orderNumber(a.orderId)}
                    </Link>
                  ) : (
                    'no order'
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}

/** What an empty installation needs first, in the order in which each step stands on the one before. */
function FirstSteps() {
  const { data: reference } = setupApi.useReadReferenceQuery();
  const { data: customers } = customersApi.useListCustomersQuery({ query: { limit: '1' } });
  const { data: agreements } = agreementsApi.useListAgreementsQuery({ query: { limit: '1' } });
  const mayWrite = useReader().may(writeAgreement);
  if (!reference || !customers || !agreements || agreements.total > 0 || !mayWrite) return null;
  const steps = [
    [reference.calendars.length > 0, '/setup', 'Say when your sites are open', 'calendars with their holidays'],
    [reference.serviceLevels.length > 0, '/setup', 'Say how fast you promise to be', 'service levels'],
    [
      customers.items.length > 0,
      '/register/import',
      'Bring in the machines',
      'a CSV file of customers, places and assets',
    ],
    [false, '/agreements', 'Write the first agreement', 'what is covered, and which visits are owed'],
  ] as const;
  const next = steps.findIndex(([done]) => !done);
  return (
    <section className="sheet mb-6 max-w-2xl px-4 py-3">
      <h2>Begin here</h2>
      <ol className="mt-1">
        {steps.map(([done, to, what, more], i) => (
          <li key={what} className="grid grid-cols-[1.4rem_1fr] border-t border-hairline py-1.5">
            <span aria-label={done ? 'done' : 'to do'}>{done ? '✓' : `${i + 1}`}</span>
            <span>
              <Link className={`link-ink ${i === next ? 'font-semibold' : ''}`} to={to}>
                {what}
              </Link>{' '}
              <span className="quiet">{more}</span>
            </span>
          </li>
        ))}
      </ol>
    </section>
  );
}

function TodayView({ today }: { today: Today }) {
  const reader = useReader();
  const navigate = useNavigate();
  const [chosenId, setChosenId] = useState<number | null>(null);
  const found = today.promises.findIndex((p) => p.order.id === chosenId);
  const chosen = found >= 0 ? found : today.promises.length > 0 ? 0 : -1;
  const choose = (i: number): void => setChosenId(today.promises[i]?.order.id ?? null);
  useListKeys(today.promises.length, chosen, choose, (i) => void navigate(`/orders/${today.promises[i]?.order.id}`));
  const { counts } = today;
  const shown = today.promises[chosen];
  return (
    <div className="panes">
      <div className="min-w-0 flex-1 px-6 pt-5">
        <header className="flex flex-wrap items-baseline gap-x-5 pb-4">
          <h1>{sayDate(today.today).slice(0, -5)}</h1>
          <p className="text-[0.93rem]">
            {counts.missed > 0 && <span className="text-missed">✕ {plural(counts.missed, 'promise')} missed · </span>}
            {counts.short > 0 && <span className="text-short">▲ {counts.short} running short · </span>}
            <span className="text-ink2">
              {counts.enough} with time enough{counts.paused > 0 ? ` · ${counts.paused} paused` : ''} ·{' '}
              {plural(today.visitsEnding.length, 'visit')} to finish by{' '}
              {sayShortDate(today.visitsEnding.at(-1)?.windowTo ?? today.today, today.today)}
            </span>
          </p>
        </header>
        <FirstSteps />
        <Promises today={today} chosen={chosen} choose={choose} />
        {today.morePromises > 0 && (
          <p className="quiet px-2 py-2">
            {plural(today.morePromises, 'more order')} with promises further away ·{' '}
            <Link className="link-ink" to="/orders">
              all open orders
            </Link>
          </p>
        )}
        <OwnNotices today={today} />
        <Alerts today={today} zone={reader.zone} />
        <div className="-mt-8">
          <Decisions today={today} />
        </div>
        <Visits today={today} />
        <div className="pb-10" />
      </div>
      {shown && (
        <aside aria-label="Chosen order" className="pane w-[272px] overflow-y-auto border-l bg-base-100 px-4 pt-5">
          <OrderGlance id={shown.order.id} />
        </aside>
      )}
    </div>
  );
}

export function TodayRoom() {
  const query = todayApi.useReadTodayQuery(undefined, { pollingInterval: 60_000 });
  return <Waiting query={query}>{(today) => <TodayView today={today} />}</Waiting>;
}
