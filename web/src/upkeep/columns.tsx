// The columns of the run: visits to raise, and schedules that yield nothing.
import { Link } from 'react-router';
import type { Proposal, UpkeepRun } from '#api/upkeep.ts';
import { type LocalDate } from '#core/time/index.ts';
import { type Column } from '../parts/table/index.ts';
import { sayDate, sayMinutes } from '../parts/words.ts';

const whenColumns = (day: (d: LocalDate) => string): Column<Proposal>[] => [
  {
    id: 'due',
    head: 'Due',
    value: (p) => p.due,
    show: (p) => (
      <>
        {sayDate(p.due)}
        {p.due !== p.nominal && <span className="quiet block">moved from {day(p.nominal)}</span>}
      </>
    ),
    className: 'whitespace-nowrap',
  },
  {
    id: 'window',
    head: 'In time',
    value: (p) => `${p.windowFrom} – ${p.windowTo}`,
    show: (p) => `${day(p.windowFrom)} – ${day(p.windowTo)}`,
    className: 'quiet whitespace-nowrap',
  },
  {
    id: 'raise',
    head: 'Raise from',
    value: (p) => p.raise,
    show: (p) => day(p.raise),
    className: 'quiet whitespace-nowrap',
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
        {p.jobPlan}
        <span className="quiet block">
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
    id: 'remark',
    head: 'Remark',
    value: (p) =>
      [p.beyond, p.state === 'held' ? `held: ${p.holdReason}` : p.remark].filter(Boolean).join('; ') || null,
    show: (p) => (
      <>
        {p.beyond && <span className="block font-semibold">{p.beyond}</span>}
        {p.state === 'held' ? (
          <span className="font-semibold">held: {p.holdReason}</span>
        ) : (
          p.remark && (
            <span className={p.remark.includes('over') ? 'text-missed' : 'quiet'}>
              {p.remark.includes('over') ? '✕ ' : ''}
              {p.remark}
            </span>
          )
        )}
      </>
    ),
  },
];

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
        {n.jobPlan}{' '}
        <Link className="serial link-ink" to={`/agreements/${n.agreementId}`}>
          {n.agreement}
        </Link>
      </>
    ),
  },
  { id: 'why', head: 'Why', value: (n) => n.reason },
];
