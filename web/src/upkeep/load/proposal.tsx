// What evening out proposes: before and after, each visit that would move, and moving those that are ticked.
import { useEffect, useMemo, useState } from 'react';
import { Link } from 'react-router';
import type { Problem } from '#api/shapes.ts';
import { toDayNumber } from '#core/time/index.ts';
import { measureLoad, type LoadMeasure } from '#core/upkeep/index.ts';
import { fromDayNumber, daysBetween } from '#core/time/index.ts';
import { Table, useTicks, type Column } from '../../parts/table/index.ts';
import { plural, sayDate, sayHours, sayMinutes } from '../../parts/words.ts';
import { upkeepApi } from '../endpoints.ts';
import type { Proposal, ProposedMove } from './levelling.ts';

const keyOf = ({ visit: v }: ProposedMove): string => `${v.scheduleId}/${v.nominal}/${v.part}`;

function sayMoved({ visit, to }: ProposedMove): string {
  const days = daysBetween(visit.planned, to);
  return `${plural(Math.abs(days), 'day')} ${days < 0 ? 'earlier' : 'later'}`;
}

const COLUMNS: readonly Column<ProposedMove>[] = [
  {
    id: 'tag',
    head: 'Asset',
    value: (m) => m.visit.tag,
    show: (m) => (
      <Link className="serial link-ink" to={`/schedules/${m.visit.scheduleId}`}>
        {m.visit.tag}
      </Link>
    ),
  },
  { id: 'customer', head: 'Customer', value: (m) => m.visit.customer },
  { id: 'plan', head: 'Job plan', value: (m) => m.visit.jobPlan },
  {
    id: 'minutes',
    head: 'Duration',
    isNumber: true,
    value: (m) => m.visit.minutes,
    show: (m) => sayMinutes(m.visit.minutes),
  },
  { id: 'planned', head: 'Planned', value: (m) => m.visit.planned, show: (m) => sayDate(m.visit.planned) },
  { id: 'to', head: 'To', value: (m) => m.to, show: (m) => sayDate(m.to), className: 'font-semibold' },
  { id: 'moved', head: 'Moved', value: sayMoved, className: 'quiet' },
];

function Compared({ before, after, bound }: { before: LoadMeasure; after: LoadMeasure; bound: number }) {
  const rows = [
    [
      'Fullest week of what is to come',
      `${sayHours(before.peakMinutes)}, ${sayDate(fromDayNumber(before.peakWeek))}`,
      `${sayHours(after.peakMinutes)}, ${sayDate(fromDayNumber(after.peakWeek))}`,
      `${Math.round((1 - after.peakMinutes / Math.max(1, before.peakMinutes)) * 100)} % lower; no plan inside the windows gets below ${sayHours(bound)}`,
    ],
    ['Spread of weeks', sayHours(before.spreadMinutes), sayHours(after.spreadMinutes), 'standard deviation'],
    [
      'On the road',
      `${Math.round(before.km).toLocaleString('en-GB')} km`,
      `${Math.round(after.km).toLocaleString('en-GB')} km`,
      'estimated: great circle × 1.3, one round a day from each depot',
    ],
  ] as const;
  return (
    <table className="dense mt-2 w-auto">
      <thead>
        <tr>
          <th />
          <th>Now</th>
          <th>Evened out</th>
          <th />
        </tr>
      </thead>
      <tbody>
        {rows.map(([what, now, then, more]) => (
          <tr key={what}>
            <td className="pr-6">{what}</td>
            <td className="pr-6 tabular-nums">{now}</td>
            <td className="pr-6 font-semibold tabular-nums">{then}</td>
            <td className="quiet">{more}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

export function ProposalView({
  proposal: { problem, levelled, moves },
  onDays,
  onDone,
}: {
  proposal: Proposal;
  /** Where each visit would lie with what is ticked. */
  onDays: (days: readonly number[]) => void;
  onDone: (said: string | null) => void;
}) {
  const ticks = useTicks<string>();
  const { toggle } = ticks;
  // Everything is ticked to begin with.
  const [begun, setBegun] = useState(false);
  useEffect(() => {
    if (begun) return;
    setBegun(true);
    toggle(moves.map(keyOf));
  }, [begun, toggle, moves]);
  const days = useMemo(() => {
    const chosen = new Map(moves.filter((m) => ticks.ticked.has(keyOf(m))).map((m) => [m.index, toDayNumber(m.to)]));
    return problem.visits.map((v, i) => chosen.get(i) ?? v.day);
  }, [problem, moves, ticks.ticked]);
  useEffect(() => onDays(days), [days, onDays]);
  const after = useMemo(() => measureLoad(problem, days), [problem, days]);
  const [move, { isLoading, error }] = upkeepApi.useMoveVisitsMutation();
  const send = async (): Promise<void> => {
    const body = {
      moves: moves
        .filter((m) => ticks.ticked.has(keyOf(m)))
        .map(({ visit: { scheduleId, nominal, planned }, to }) => ({ scheduleId, nominal, was: planned, to })),
    };
    const { data } = await move({ body });
    if (!data) return;
    const left = data.left.length === 0 ? '' : ` ${plural(data.left.length, 'visit')} stayed: ${data.left[0]?.reason}.`;
    onDone(`${plural(data.moved, 'visit')} moved.${left}`);
  };
  return (
    <section className="mt-5">
      <h2>Evened out</h2>
      <Compared before={levelled.before} after={after} bound={levelled.boundMinutes} />
      <div className="mt-3 flex gap-2">
        <button className="act-main" disabled={isLoading || ticks.ticked.size === 0} onClick={() => void send()}>
          Move {plural(ticks.ticked.size, 'visit')}
        </button>
        <button className="act" onClick={() => onDone(null)}>
          Leave everything where it is
        </button>
      </div>
      {error && (
        <p role="alert" className="mt-2 text-missed">
          ✕ {(error as Problem).detail}
        </p>
      )}
      <Table
        name="levelled"
        caption="Visits that would move"
        columns={COLUMNS}
        rows={moves}
        idOf={keyOf}
        ticks={{ of: ticks, idsOf: (m) => [keyOf(m)], nameOf: (m) => `${m.visit.tag} of ${m.visit.planned}` }}
      />
    </section>
  );
}
