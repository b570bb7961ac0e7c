// A year in a table: a row for each machine and job plan, the days of its visits in twelve months.
import { group } from 'd3-array';
import { Link } from 'react-router';
import type { YearPlan, YearRow, YearVisit } from '#api/year.ts';
import { SHORT_MONTHS } from '#core/time/index.ts';
import { sayDate } from '../../parts/words.ts';

const SAYS: Readonly<Record<YearVisit['state'], string>> = {
  'to come': 'to come',
  raised: 'raised',
  'in window': 'done in its window',
  'outside window': 'done outside its window',
  'not done': 'not done',
};

/** The marks of the ribbon's care lane: hollow to come, filled done, with a bar through outside its window, crossed not done. */
function Mark({ state }: { state: YearVisit['state'] }) {
  const missed = state === 'not done' || state === 'outside window';
  return (
    <svg width="13" height="11" className={missed ? 'text-missed' : ''} aria-hidden>
      {state === 'not done' ? (
        <path d="M3 2l7 7M3 9l7-7" stroke="currentColor" strokeWidth="1.5" />
      ) : (
        <circle
          cx="6.5"
          cy="5.5"
          r="3.4"
          fill={state === 'to come' || state === 'raised' ? 'none' : 'currentColor'}
          stroke="currentColor"
          strokeWidth="1.2"
        />
      )}
      {state === 'raised' && <circle cx="6.5" cy="5.5" r="1.2" fill="currentColor" />}
      {state === 'outside window' && <path d="M0 5.5h13" stroke="currentColor" strokeWidth="1.3" />}
    </svg>
  );
}

export function YearLegend() {
  return (
    <p className="quiet mt-2 flex flex-wrap gap-x-5">
      {(Object.keys(SAYS) as YearVisit['state'][]).map((state) => (
        <span key={state} className="flex items-center gap-1.5">
          <Mark state={state} /> {SAYS[state]}
        </span>
      ))}
    </p>
  );
}

function Day({ visit }: { visit: YearVisit }) {
  const title = `${sayDate(visit.planned)}: ${SAYS[visit.state]}; in time from ${sayDate(visit.windowFrom)} to ${sayDate(visit.windowTo)}`;
  const inside = (
    <>
      <Mark state={visit.state} />
      <span className="tabular-nums">{Number(visit.planned.slice(8))}</span>
      <span className="sr-only">, {SAYS[visit.state]}</span>
    </>
  );
  const className = 'flex h-[26px] min-w-9 items-center gap-0.5 whitespace-nowrap';
  return visit.orderId === null ? (
    <span className={className} title={title}>
      {inside}
    </span>
  ) : (
    <Link className={`${className} hover:underline`} to={`/orders/${visit.orderId}`} title={title}>
      {inside}
    </Link>
  );
}

function Row({ row }: { row: YearRow }) {
  return (
    <tr className="align-top">
      <th scope="row" className="max-w-64 py-1 pr-3 text-left font-normal">
        <Link className="serial link-ink" to={`/assets/${row.assetId}`}>
          {row.tag}
        </Link>{' '}
        {row.model}
        <span className="quiet block">
          <Link className="link-ink" to={`/schedules/${row.scheduleId}`}>
            {row.jobPlan}
          </Link>
          , {row.agreement}
        </span>
      </th>
      {SHORT_MONTHS.map((month, i) => (
        <td key={month} className="border-l border-hairline px-1.5 py-1">
          <div className="flex flex-wrap">
            {row.visits
              .filter((v) => Number(v.planned.slice(5, 7)) === i + 1)
              .map((v) => (
                <Day key={v.planned} visit={v} />
              ))}
          </div>
        </td>
      ))}
    </tr>
  );
}

export function YearTable({ plan: { rows, title, year } }: { plan: YearPlan }) {
  return (
    <table className="mt-3 w-full table-fixed border-collapse text-[0.93rem]">
      <caption className="sr-only">
        Visits of {title} in {year}
      </caption>
      <thead>
        <tr className="border-b border-base-content">
          <th className="w-60 pb-1 text-left">Machine and work</th>
          {SHORT_MONTHS.map((month) => (
            <th key={month} className="border-l border-hairline px-1.5 pb-1 text-left">
              {month}
            </th>
          ))}
        </tr>
      </thead>
      {[...group(rows, (r) => r.place)].map(([place, of]) => (
        <tbody key={place}>
          <tr>
            <th colSpan={13} scope="rowgroup" className="pt-3 pb-1 text-left">
              {place}
            </th>
          </tr>
          {of.map((row) => (
            <Row key={`${row.assetId}/${row.jobPlan}/${row.agreement}`} row={row} />
          ))}
        </tbody>
      ))}
    </table>
  );
}
