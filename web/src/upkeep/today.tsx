// What Today shows of upkeep: what waits to be raised, what yields nothing, and visits whose window ends soon.
import { Link } from 'react-router';
import { orderNumber } from '#api/shapes.ts';
import { plural, sayDate, sayShortDate } from '../parts/words.ts';
import { Decision } from '../shell/today-card.tsx';
import { upkeepApi } from './endpoints.ts';

export function VisitsSummary() {
  const { data: due } = upkeepApi.useReadDueQuery();
  if (!due) return null;
  const last = due.visitsEnding.at(-1)?.windowTo ?? due.today;
  return (
    <span className="text-ink2">
      {plural(due.visitsEnding.length, 'visit')} to finish by {sayShortDate(last, due.today)}
    </span>
  );
}

export function UpkeepDecisions() {
  const { data: due } = upkeepApi.useReadDueQuery();
  if (!due) return null;
  return (
    <>
      {due.proposed + due.held > 0 && (
        <Decision what="Upkeep to raise" figure={plural(due.proposed, 'visit')}>
          <Link className="link-ink" to={`/upkeep?to=${due.today}`}>
            look through and raise{due.held > 0 ? `, ${due.held} held` : ''}
          </Link>
          {due.toDecide > 0 && (
            <>
              {' · '}
              <Link className="link-ink font-semibold" to={`/upkeep?to=${due.today}&shown=to decide`}>
                {due.toDecide} to decide
              </Link>
            </>
          )}
        </Decision>
      )}
      {due.needsAction > 0 && (
        <Decision what="Schedules that yield nothing" figure={String(due.needsAction)}>
          {due.reasons
            .slice(0, 3)
            .map((r) => `${r.text}${r.count > 1 ? ` (${r.count} ×)` : ''}`)
            .join(' · ')}{' '}
          <Link className="link-ink" to={`/upkeep?to=${due.today}&show=nothing`}>
            all
          </Link>
        </Decision>
      )}
    </>
  );
}

export function VisitsCard() {
  const { data: due } = upkeepApi.useReadDueQuery();
  if (!due || due.visitsEnding.length === 0) return null;
  return (
    <section className="mt-7">
      <h2 className="pb-1.5">Visits whose window ends within a week</h2>
      <table className="dense">
        <tbody>
          {due.visitsEnding.map((v) => (
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
