// The columns of standing: what was promised and kept, what changed since the period before, and what was agreed.
import type { ReactNode } from 'react';
import { Link } from 'react-router';
import type { StandingBy, StandingPlaces, StandingRow } from '#api/standing.ts';
import { sayShare } from '../parts/words.ts';
import type { Column } from '../parts/table/index.ts';

/** A share as a short bar with its number: the length says it, the words say it again. */
function ShareBar({ share }: { share: number | null }) {
  if (share === null) return null;
  return (
    <svg width="70" height="8" aria-hidden="true" className="inline-block">
      <rect y="3" width="70" height="2" fill="var(--hairline)" />
      <rect width={70 * share} height="8" fill="currentColor" fillOpacity="0.75" />
    </svg>
  );
}

const NAMES: Readonly<Record<StandingBy, string>> = {
  ...{ agreement: 'Agreement', customer: 'Customer', site: 'Site', depot: 'Depot', asset: 'Asset' },
};

/** Where a subject has a page of its own. */
const PAGES: Partial<Record<StandingBy, (id: number) => string>> = {
  agreement: (id) => `/agreements/${id}`,
  customer: (id) => `/customers/${id}`,
  site: (id) => `/places/${id}`,
  asset: (id) => `/assets/${id}`,
};

/** How much a share went up or down, in points of a percent. */
export function sayPoints(now: number | null, before: number | null): string {
  if (now === null || before === null) return '';
  const points = Math.round((now - before) * 1000) / 10;
  return points === 0 ? 'as before' : `${points > 0 ? '+' : '−'}${Math.abs(points).toFixed(1)}`;
}

/** What every row of standing has; with what was agreed where something is. */
type Told = StandingPlaces['here'] & { readonly agreed?: number | null };

function Attainment({ row: { attainment, agreed = null } }: { row: Told }): ReactNode {
  if (attainment === null) return <span className="quiet">no promise fell due</span>;
  const isBelow = agreed !== null && attainment * 10_000 < agreed;
  return (
    <span className={isBelow ? 'text-missed' : ''}>
      {isBelow ? '✕ ' : ''}
      {sayShare(attainment)}
      {agreed !== null && <span className="quiet"> of {agreed / 100} %</span>}
    </span>
  );
}

/** Promises; `more` stands behind their bar. */
export const promiseColumns = <R extends Told>(more: readonly Column<R>[] = []): Column<R>[] => [
  { id: 'met', head: 'Met', isNumber: true, show: (r) => r.met },
  {
    id: 'missed',
    head: 'Missed',
    isNumber: true,
    show: (r) => (r.missed > 0 ? `✕ ${r.missed}` : 0),
    className: (r) => (r.missed > 0 ? 'text-missed' : ''),
  },
  {
    id: 'attainment',
    head: 'Attainment',
    isNumber: true,
    show: (r) => <Attainment row={r} />,
    className: 'whitespace-nowrap',
  },
  {
    id: 'attainment-bar',
    head: '',
    drawnHead: <span className="sr-only">Attainment as a bar</span>,
    width: 80,
    show: (r) => <ShareBar share={r.attainment} />,
  },
  ...more,
];

export const upkeepColumns = <R extends Told>(): Column<R>[] => [
  { id: 'owed', head: 'Visits owed', isNumber: true, show: (r) => r.owed },
  { id: 'in-window', head: 'In window', isNumber: true, show: (r) => r.inWindow },
  {
    id: 'upkeep',
    head: 'Upkeep',
    isNumber: true,
    show: (r) => (r.compliance === null ? '' : sayShare(r.compliance)),
  },
  {
    id: 'upkeep-bar',
    head: '',
    drawnHead: <span className="sr-only">Upkeep as a bar</span>,
    width: 80,
    show: (r) => <ShareBar share={r.compliance} />,
  },
];

/** `before`: attainment of the period before, by id, once it is known. */
export const columnsBy = (by: StandingBy, before: Readonly<Record<string, number | null>>): Column<StandingRow>[] => [
  {
    id: 'what',
    head: NAMES[by],
    show: (r) => (
      <>
        {r.id > 0 && PAGES[by] ? (
          <Link className="link-ink" to={PAGES[by](r.id)}>
            {r.label}
          </Link>
        ) : (
          r.label
        )}{' '}
        <span className="serial">{r.detail}</span>
      </>
    ),
  },
  ...(by === 'agreement' || by === 'asset'
    ? [{ id: 'customer', head: 'Customer', show: (r: StandingRow) => r.customer }]
    : []),
  ...promiseColumns<StandingRow>([
    {
      id: 'change',
      head: 'Change',
      isNumber: true,
      show: (r) => <span className="quiet">{sayPoints(r.attainment, before[r.id] ?? null)}</span>,
      className: 'whitespace-nowrap',
    },
  ]),
  ...upkeepColumns<StandingRow>(),
];
