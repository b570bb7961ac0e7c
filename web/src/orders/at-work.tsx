// Clocks at work: every promise that runs or stands still, the one due next in front; in groups as wanted, with who sees to it, who was
// warned, and what it waits for.
import { useState, type ReactNode } from 'react';
import { Link, useSearchParams } from 'react-router';
import {
  CLOCKS_BY,
  handOver,
  MARGINS_SHOWN,
  type ClockAtWork,
  type ClocksAtWork,
  type ClocksBy,
  type MarginShown,
  type readClocksAtWork,
} from '#api/clocks.ts';
import { orderNumber } from '#api/shapes.ts';
import type { Zone } from '#core/time/index.ts';
import { SelectField } from '../parts/fields.tsx';
import { sayLeft, TONE } from '../parts/margin-bar.tsx';
import { Pager, usePages } from '../parts/pager.tsx';
import { sayMoment, sayMinutes } from '../parts/words.ts';
import { askedIn, type Args } from '../shell/calls.ts';
import { useReader } from '../shell/reader.tsx';
import { Waiting } from '../shell/waiting.tsx';
import { sayAnswer, sayStep, SeeToIt } from './warned.tsx';
import { ordersApi } from './endpoints.ts';
import { HandOver } from './hand-over.tsx';

const KEYS = ['by', 'of', 'margin', 'mine', 'unseen'] as const;
const BY_WORDS: Readonly<Record<ClocksBy, string>> = {
  ...{ agreement: 'by agreement', customer: 'by customer', depot: 'by depot', technician: 'by who goes' },
  ...{ 'in hand': 'by who sees to it', target: 'by promise', priority: 'by priority', wait: 'by what they wait for' },
};
const MARGIN_WORDS: Readonly<Record<MarginShown, string>> = {
  ...{ missed: 'missed and open', short: 'running short', enough: 'time enough', paused: 'paused' },
};
const PROMISE = {
  ...{ response: 'respond', arrival: 'arrive', workaround: 'work for now', restoration: 'back in use' },
} as const;

const filterOf = (params: URLSearchParams): NonNullable<Args<typeof readClocksAtWork>['query']> =>
  askedIn(params, KEYS);

/** What is left, over, or how long it has stood still. */
function Left({ of: { clock, margin, pausedSince }, now }: { of: ClockAtWork; now: number }) {
  return (
    <>
      <span className={`font-semibold ${TONE[margin]}`}>{sayLeft(clock)}</span>
      {pausedSince !== null && (
        <span className="quiet block">stands still for {sayMinutes(Math.round((now - pausedSince) / 60_000))}</span>
      )}
    </>
  );
}

function Warned({ of: { warnings }, now, zone }: { of: ClockAtWork; now: ClocksAtWork['now']; zone: Zone }) {
  const last = warnings.findLast((w) => w.told.length > 0);
  if (!last) return <span className="quiet">nobody yet</span>;
  return (
    <>
      {sayStep(last)}: {last.told.join(', ')}
      <span className="quiet block">{sayAnswer(last, now, zone)}</span>
    </>
  );
}

function Row({ of, now, onHand }: { of: ClockAtWork; now: ClocksAtWork['now']; onHand: () => void }) {
  const reader = useReader();
  const { clock } = of;
  const zone = clock.zone as Zone;
  const isUnseen = of.warnings.some((w) => w.acknowledged === null);
  return (
    <tr>
      <td>
        <Link className="serial link-ink" to={`/orders/${clock.orderId}`}>
          {orderNumber(clock.orderId)}
        </Link>{' '}
        {of.title}
        <span className="quiet block">
          {clock.tag} · {of.place.split(' · ')[0]} · {of.customer}
        </span>
      </td>
      <td>
        {PROMISE[clock.target]}
        <span className="quiet block">priority {of.priority}</span>
      </td>
      <td className="whitespace-nowrap">
        {clock.dueAt === null ? <span className="quiet">–</span> : sayMoment(clock.dueAt, now, zone)}
      </td>
      <td>
        <Left of={of} now={now} />
      </td>
      <td>
        {of.technician ?? <span className="quiet">nobody yet</span>}
        <span className="quiet block">{of.stage}</span>
      </td>
      <td>
        <Warned of={of} now={now} zone={zone} />
      </td>
      <td className="whitespace-nowrap">
        {of.inCharge?.name ?? <span className="quiet">nobody in particular</span>}
        <span className="flex gap-x-3">
          {reader.may(handOver) && (
            <button className="link-ink" onClick={onHand}>
              Hand over…
            </button>
          )}
          {isUnseen && <SeeToIt orderId={clock.orderId} />}
        </span>
      </td>
    </tr>
  );
}

function Groups({ groups, of, choose }: { groups: ClocksAtWork['groups']; of: string; choose: (key: string) => void }) {
  return (
    <table className="dense mb-4 max-w-3xl" aria-label="Groups">
      <thead>
        <tr>
          <th />
          {MARGINS_SHOWN.map((m) => (
            <th key={m} className="num">
              {MARGIN_WORDS[m]}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {groups.map((g) => (
          <tr key={g.key} aria-current={g.key === of ? true : undefined}>
            <td>
              <button className="link-ink text-left" onClick={() => choose(g.key === of ? '' : g.key)}>
                {g.name}
              </button>
              {g.key === of && <span className="quiet"> · shown alone; once more for all</span>}
            </td>
            {MARGINS_SHOWN.map((m) => (
              <td key={m} className={`num ${g[m] > 0 ? TONE[m] : 'quiet'}`}>
                {g[m]}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Choose({ params, change }: { params: URLSearchParams; change: (key: string, value: string) => void }) {
  const tick = (key: 'mine' | 'unseen', word: ReactNode) => (
    <label className="flex items-center gap-2 pb-1.5">
      <input
        type="checkbox"
        className="box-tick"
        checked={params.get(key) === 'yes'}
        onChange={(e) => change(key, e.target.checked ? 'yes' : '')}
      />
      {word}
    </label>
  );
  return (
    <div className="flex flex-wrap items-end gap-x-5 gap-y-2 pb-3">
      <SelectField
        label="Put together"
        value={params.get('by') ?? ''}
        onChange={(by) => change('by', by)}
        options={[['', 'as one list'], ...CLOCKS_BY.map((by) => [by, BY_WORDS[by]] as const)]}
      />
      <SelectField
        label="Margin"
        value={params.get('margin') ?? ''}
        onChange={(m) => change('margin', m)}
        options={[['', 'every margin'], ...MARGINS_SHOWN.map((m) => [m, MARGIN_WORDS[m]] as const)]}
      />
      {tick('mine', 'what I have in hand')}
      {tick('unseen', 'warned of, and unanswered')}
    </div>
  );
}

const Counts = ({ counts }: { counts: ClocksAtWork['counts'] }) => (
  <p>
    {MARGINS_SHOWN.map((m, i) => (
      <span key={m}>
        {i > 0 && ' · '}
        <span className={counts[m] > 0 ? `font-semibold ${TONE[m]}` : 'quiet'}>{counts[m]}</span>{' '}
        <span className="quiet">{MARGIN_WORDS[m]}</span>
      </span>
    ))}
  </p>
);

export function ClocksAtWorkRoom() {
  const pages = usePages();
  const [params, setParams] = useSearchParams();
  const [handing, setHanding] = useState<ClockAtWork | null>(null);
  const { after } = pages;
  const query = ordersApi.useReadClocksAtWorkQuery({ query: { ...filterOf(params), ...(after && { after }) } });
  const change = (key: string, value: string): void => {
    const next = new URLSearchParams(params);
    if (value) next.set(key, value);
    else next.delete(key);
    if (key === 'by') next.delete('of');
    pages.begin();
    setParams(next);
  };
  return (
    <div className="flex-1 overflow-y-auto px-7 pt-5 pb-10">
      <header className="flex items-baseline gap-4 pb-2">
        <h1>Clocks at work</h1>
        <p className="quiet">Every promise that runs or stands still, the one due next in front.</p>
        <Link className="link-ink ml-auto" to="/orders">
          Orders
        </Link>
      </header>
      <Choose params={params} change={change} />
      <Waiting query={query}>
        {(at) => (
          <>
            <Counts counts={at.counts} />
            <div className="pt-3">
              {at.groups.length > 0 && (
                <Groups groups={at.groups} of={params.get('of') ?? ''} choose={(key) => change('of', key)} />
              )}
              {at.items.length === 0 ? (
                <p className="quiet border-y border-hairline py-4">
                  {params.size === 0
                    ? 'No promise runs: everything that was promised is settled.'
                    : 'None answers the filter.'}
                </p>
              ) : (
                <table className="dense" aria-label="Clocks at work">
                  <thead>
                    <tr>
                      <th>Order</th>
                      <th>Promise</th>
                      <th>Due</th>
                      <th>Left</th>
                      <th>Who goes</th>
                      <th>Warned</th>
                      <th>Sees to it</th>
                    </tr>
                  </thead>
                  <tbody>
                    {at.items.map((of) => (
                      <Row
                        key={`${of.clock.orderId} ${of.clock.assetId} ${of.clock.target}`}
                        of={of}
                        now={at.now}
                        onHand={() => setHanding(of)}
                      />
                    ))}
                  </tbody>
                </table>
              )}
              <Pager pages={pages} next={at.next} words={['Earlier', 'Later']} />
            </div>
          </>
        )}
      </Waiting>
      {handing && (
        <HandOver
          order={{ id: handing.clock.orderId, title: handing.title, inCharge: handing.inCharge }}
          onClose={() => setHanding(null)}
        />
      )}
    </div>
  );
}
