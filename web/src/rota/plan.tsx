// A proposed rota: how far it is, what it would change, before and after; accepted in whole, in part, or not at all.
import { useState } from 'react';
import { group } from 'd3-array';
import { Link, useParams } from 'react-router';
import type { PlanItemOut, PlanOut } from '#api/rota-plans.ts';
import type { Count } from '#core/rota/index.ts';
import { localDateAt, MINUTE, sayLength, type Zone } from '#core/time/index.ts';
import { ErrorLine } from '../parts/problem.tsx';
import { plural, sayDate, sayMinutes, sayTime } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { Waiting } from '../shell/waiting.tsx';
import { rotaApi } from './endpoints.ts';

const COUNT_WORDS: readonly (readonly [Count, string, boolean])[] = [
  ['left', 'Work left out, weighted', false],
  ['missed', 'Promises missed, weighted', false],
  ['outside', 'Begun after its window closed, in all', true],
  ['overtime', 'Past closing', true],
  ['travel', 'On the way', true],
  ['changes', 'Other than customers were told', false],
  ['others', 'Not whom the customer prefers', false],
  ['moved', 'Given to somebody else or another day', false],
];

/** Minutes that are said in days: nobody is on the way for a hundred hours, but work may wait for weeks. */
const A_LOT = 100 * 60;

function Figures({ result }: { result: NonNullable<PlanOut['result']> }) {
  return (
    <table className="dense max-w-lg">
      <thead>
        <tr>
          <th>What it comes to</th>
          <th className="num">As it stands</th>
          <th className="num">Proposed</th>
        </tr>
      </thead>
      <tbody>
        <tr>
          <td>Pieces of work planned</td>
          <td className="num">{result.planned.before}</td>
          <td className="num">{result.planned.after}</td>
        </tr>
        {COUNT_WORDS.map(([count, word, isMinutes]) => {
          const [before, after] = [result.before[count], result.after[count]];
          const say = (n: number): string =>
            isMinutes ? sayLength(n * MINUTE, Math.max(before, after) > A_LOT ? 'as days' : 'as hours') : String(n);
          return (
            <tr key={count}>
              <td>{word}</td>
              <td className="num whitespace-nowrap">{say(before)}</td>
              <td
                className={`num whitespace-nowrap ${after < before ? 'font-semibold text-enough' : after > before ? 'text-short' : ''}`}
              >
                {after < before ? '↓ ' : after > before ? '↑ ' : ''}
                {say(after)}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

function Load({ result }: { result: NonNullable<PlanOut['result']> }) {
  const most = Math.max(60, ...result.load.flatMap((l) => [l.before, l.after]));
  return (
    <table className="dense max-w-md">
      <thead>
        <tr>
          <th>Work of each</th>
          <th>
            <span className="sr-only">Drawn</span>
          </th>
          <th className="num">As it stands</th>
          <th className="num">Proposed</th>
        </tr>
      </thead>
      <tbody>
        {result.load.map(({ person, before, after }) => (
          <tr key={person.id}>
            <td className="whitespace-nowrap">{person.name}</td>
            <td>
              <svg width="110" height="12" aria-hidden className="block">
                <rect x="0.5" y="1.5" width={(before / most) * 108} height="4" fill="none" stroke="currentColor" />
                <rect x="0.5" y="7" width={(after / most) * 108} height="4" fill="currentColor" />
              </svg>
            </td>
            <td className="num whitespace-nowrap">{sayMinutes(before)}</td>
            <td className="num whitespace-nowrap">{sayMinutes(after)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Item({
  of,
  zone,
  isTicked,
  why,
  onTick,
}: {
  of: PlanItemOut;
  zone: Zone;
  isTicked: boolean;
  why: string | undefined;
  onTick: (on: boolean) => void;
}) {
  return (
    <tr>
      <td>
        <input
          type="checkbox"
          className="box-tick"
          aria-label={`Accept ${of.titles.join(', ')}`}
          checked={isTicked || of.accepted}
          disabled={of.accepted}
          onChange={(e) => onTick(e.target.checked)}
        />
      </td>
      <td className="tabular-nums whitespace-nowrap">
        {sayTime(of.from, zone)} to {sayTime(of.to, zone)}
      </td>
      <td>
        {[of.person, ...of.others].map((p) => (
          <span key={p.id} className="block whitespace-nowrap">
            {p.name}
          </span>
        ))}
      </td>
      <td>
        <Link className="link-ink" to={`/orders/${of.orderIds[0]}`}>
          {of.titles.join(', ')}
        </Link>
        {of.missed && <span className="text-missed"> a promise is missed all the same</span>}
      </td>
      <td className="quiet">
        {of.was
          ? `now ${of.was.person.name}, ${sayDate(localDateAt(zone, of.was.from)).slice(0, -5)} ${sayTime(of.was.from, zone)}`
          : 'loose now'}
      </td>
      <td className={why ? 'text-missed' : 'quiet'}>{of.accepted ? 'accepted' : (why ?? '')}</td>
    </tr>
  );
}

function Ready({ plan, result }: { plan: PlanOut; result: NonNullable<PlanOut['result']> }) {
  const { zone } = useReader();
  const [accept, { data, error, isLoading }] = rotaApi.useAcceptPlanMutation();
  const open = result.items.filter((i) => !i.accepted);
  const [off, setOff] = useState<ReadonlySet<number>>(new Set());
  const why = new Map((data?.refused ?? []).map((r) => [r.key, r.why]));
  const ticked = open.filter((i) => !off.has(i.key));
  const byDay = group(
    [...result.items].sort((a, b) => a.from - b.from || a.person.id - b.person.id),
    (i) => localDateAt(zone, i.from),
  );
  const take = (items: readonly PlanItemOut[]) =>
    void accept({ params: { id: String(plan.id) }, body: { keys: items.map((i) => i.key) } });
  return (
    <>
      <div className="mt-4 flex flex-wrap gap-x-12 gap-y-4">
        <Figures result={result} />
        <Load result={result} />
      </div>
      <div className="mt-5 flex items-baseline gap-4">
        {open.length > 0 && (
          <button className="act-main" disabled={ticked.length === 0 || isLoading} onClick={() => take(ticked)}>
            Accept {plural(ticked.length, 'proposal')}
          </button>
        )}
        <p role="status">
          {data &&
            `${data.accepted} accepted${data.refused.length > 0 ? `, ${data.refused.length} changed meanwhile and left as they are` : ''}.`}
          {result.items.length === 0 &&
            'Nothing can be done better: everything that can go is planned as well as it can be.'}
        </p>
        <ErrorLine error={error} />
      </div>
      {[...byDay].map(([date, items]) => (
        <section key={date} className="mt-4">
          <h2>{sayDate(date)}</h2>
          <table className="dense">
            <tbody>
              {items.map((i) => (
                <Item
                  key={i.key}
                  of={i}
                  zone={zone}
                  isTicked={!off.has(i.key)}
                  why={why.get(i.key)}
                  onTick={(on) => setOff(new Set(on ? [...off].filter((k) => k !== i.key) : [...off, i.key]))}
                />
              ))}
            </tbody>
          </table>
        </section>
      ))}
      {result.left.length > 0 && (
        <section className="mt-5">
          <h2>Left out</h2>
          <ul>
            {result.left.map((l) => (
              <li key={l.orderId} className="border-t border-hairline py-1">
                <Link className="link-ink" to={`/rota?order=${l.orderId}`}>
                  {l.title}
                </Link>{' '}
                <span className="quiet">{l.why}</span>
              </li>
            ))}
          </ul>
        </section>
      )}
    </>
  );
}

const ASKED_EVERY_MS = 1000;

export function PlanRoom() {
  const { id = '' } = useParams();
  const [isDone, setDone] = useState(false);
  // How far it is is told to nobody: whoever looks asks, until it is ready.
  const query = rotaApi.useReadPlanQuery({ params: { id } }, { pollingInterval: isDone ? 0 : ASKED_EVERY_MS });
  const isOver = query.data !== undefined && query.data.state !== 'working';
  if (isOver !== isDone) setDone(isOver);
  return (
    <div className="max-w-6xl px-7 pt-5 pb-12">
      <Link className="link-ink" to={query.data ? `/rota?from=${query.data.from}` : '/rota'}>
        ‹ Rota
      </Link>
      <Waiting query={query}>
        {(plan) => (
          <>
            <h1 className="mt-1">
              A rota for {sayDate(plan.from)}
              {plan.days > 1 && ` and ${plural(plan.days - 1, 'day')} more`}
            </h1>
            <p className="quiet">Planned by: {plan.rules}. Nothing of it is done before it is accepted.</p>
            {plan.state === 'working' && (
              <p className="mt-4" role="status">
                Working it out … <progress className="mx-2 align-middle" value={plan.progress} max={100} />{' '}
                {plan.progress} %. You may leave; it waits here.
              </p>
            )}
            {plan.state === 'failed' && (
              <p className="mt-4 text-missed">✕ It could not be worked out: {plan.problem}</p>
            )}
            {plan.result && <Ready plan={plan} result={plan.result} />}
          </>
        )}
      </Waiting>
    </div>
  );
}
