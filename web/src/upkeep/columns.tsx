// The columns of the run: visits to raise, and schedules that yield nothing.
import { Link } from 'react-router';
import { orderNumber } from '#api/shapes.ts';
import type { Proposal, UpkeepRun } from '#api/upkeep.ts';
import { type LocalDate } from '#core/time/index.ts';
import { type Column } from '../parts/table/index.ts';
import { plural, sayDate, sayMinutes } from '../parts/words.ts';

/** With how many other visits it makes one order. */
export const sayJoins = (others: number): string => `one order with ${plural(others, 'other visit')}`;

/** Where the day comes from, where it is not the rule’s. */
function sayOrigin(p: Proposal, day: (d: LocalDate) => string): string {
  if (p.changed === 'added') return 'added by hand';
  if (p.changed === 'moved') return `moved by hand, due ${day(p.due)}`;
  return p.part > 1 || p.due === p.nominal ? '' : `moved from ${day(p.nominal)}`;
}

const whenColumns = (day: (d: LocalDate) => string): Column<Proposal>[] => [
  {
    id: 'planned',
    head: 'Planned',
    value: (p) => p.planned,
    show: (p) => (
      <>
        {sayDate(p.planned)}
        <span className="quiet block">{p.joins > 0 ? sayJoins(p.joins) : sayOrigin(p, day)}</span>
      </>
    ),
    className: 'whitespace-nowrap',
  },
  {
    id: 'window',
    head: 'In time',
    value: (p) => `${p.windowFrom} – ${p.windowTo}`,
    show: (p) => (
      <>
        {day(p.windowFrom)} – {day(p.windowTo)}
        <span className="quiet block">raised from {day(p.raise)}</span>
      </>
    ),
    className: 'whitespace-nowrap',
  },
];

const WHAT_COLUMNS: readonly Column<Proposal>[] = [
  {
    id: 'asset',
    head: 'Asset',
    value: (p) => p.tag,
    show: (p) => (
      <>
        <Link className="serial link-ink" to={`/assets/${p.assetId}`}>
          {p.tag}
        </Link>
        <span className="quiet block">{p.model}</span>
      </>
    ),
    className: 'whitespace-nowrap',
  },
  {
    id: 'customer',
    head: 'Customer and place',
    value: (p) => `${p.customer}, ${p.place}`,
    show: (p) => (
      <>
        {p.customer}
        <span className="quiet block">{p.place}</span>
      </>
    ),
  },
  {
    id: 'work',
    head: 'Work',
    value: (p) => `${p.jobPlan} ${p.agreement}`,
    show: (p) => (
      <span title={p.rule}>
        <Link className="hover:underline" to={`/schedules/${p.scheduleId}`}>
          {p.jobPlan}
        </Link>{' '}
        <span className="quiet whitespace-nowrap">
          <Link className="serial hover:underline" to={`/agreements/${p.agreementId}`}>
            {p.agreement}
          </Link>
        </span>
      </span>
    ),
  },
  {
    id: 'minutes',
    head: 'Duration',
    isNumber: true,
    value: (p) => p.minutes,
    show: (p) => sayMinutes(p.minutes),
    className: 'whitespace-nowrap',
  },
  {
    id: 'standing',
    head: 'What speaks against it',
    value: (p) => standingText(p) || null,
    show: (p) => <Standing proposal={p} />,
  },
];

/** Whether it is held or let go on, and by which words. */
const decided = ({ standing, accepted, holdReason, holdUntil }: Proposal): string | null => {
  if (standing === 'held') return `held${holdUntil ? ` until ${sayDate(holdUntil)}` : ''}: ${holdReason ?? ''}`;
  return accepted ? `let go on${holdReason ? `: ${holdReason}` : ''}` : null;
};

const standingText = (p: Proposal): string =>
  [decided(p), ...p.exceptions.map((e) => e.text)].filter((x) => x !== null).join('; ');

/** What stops or asks is marked and comes first; what only tells stands quietly behind. */
function Standing({ proposal }: { proposal: Proposal }) {
  const said = decided(proposal);
  const open = proposal.standing === 'to decide';
  return (
    <>
      {said && <span className="block font-semibold">{said}</span>}
      {proposal.exceptions.map((e) => (
        <span key={e.code} className={`block ${e.level === 'tells' ? 'quiet' : open ? 'font-semibold' : ''}`}>
          {open && e.level === 'stops' && '✕ stopped: '}
          {open && e.level === 'asks' && '? '}
          {e.text}
          {e.code === 'open order' && proposal.openOrderId !== null && (
            <>
              :{' '}
              <Link className="serial link-ink" to={`/orders/${proposal.openOrderId}`}>
                {orderNumber(proposal.openOrderId)}
              </Link>
            </>
          )}
        </span>
      ))}
    </>
  );
}

export const proposalColumns = (day: (d: LocalDate) => string): Column<Proposal>[] => [
  ...whenColumns(day),
  ...WHAT_COLUMNS,
];

export const NOTHING_COLUMNS: readonly Column<UpkeepRun['nothing'][number]>[] = [
  {
    id: 'asset',
    head: 'Asset',
    value: (n) => n.tag,
    show: (n) => (
      <>
        <Link className="serial link-ink" to={`/assets/${n.assetId}`}>
          {n.tag}
        </Link>{' '}
        {n.model}
      </>
    ),
  },
  { id: 'customer', head: 'Customer', value: (n) => n.customer },
  {
    id: 'work',
    head: 'Work',
    value: (n) => `${n.jobPlan} ${n.agreement}`,
    show: (n) => (
      <>
        <Link className="hover:underline" to={`/schedules/${n.scheduleId}`}>
          {n.jobPlan}
        </Link>{' '}
        <Link className="serial link-ink" to={`/agreements/${n.agreementId}`}>
          {n.agreement}
        </Link>
      </>
    ),
  },
  {
    id: 'why',
    head: 'Why',
    value: (n) => n.reason,
    show: (n) => (
      <>
        {n.isNew && <strong className="font-semibold">New since the last run. </strong>}
        {n.reason}
      </>
    ),
  },
];
