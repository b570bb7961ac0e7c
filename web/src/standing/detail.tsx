// What stands behind a row of standing: its promises, its visits, what was pledged, and how it went.
import { Link } from 'react-router';
import type { Answer } from '#api/contract.ts';
import { AMISS_SHOWN, type StandingBy, type standingDetail, type StandingRow } from '#api/standing.ts';
import { orderNumber } from '#api/shapes.ts';
import { marginOf } from '#core/service-levels/index.ts';
import type { Counts } from '#core/standing/index.ts';
import type { Instant, Zone } from '#core/time/index.ts';
import { sayMargin, TONE } from '../parts/margin-bar.tsx';
import { sayDate } from '../parts/words.ts';
import { Waiting } from '../shell/waiting.tsx';
import type { Period } from './asked.tsx';
import { Course } from './course.tsx';
import { standingApi } from './endpoints.ts';
import { Pledges } from './pledges.tsx';

type Behind = Pick<Answer<typeof standingDetail>, 'clocks' | 'visits' | 'onlyAmiss'> & {
  readonly counts: Counts;
  readonly reader: Zone;
  readonly now: Instant;
};

/** Why fewer or more are shown than are counted: closed months keep their figures, what is shown is as it is known now. */
function SinceClosed({ counted, shown, was }: { counted: number; shown: number; was: string }) {
  if (counted === shown || shown === AMISS_SHOWN) return null;
  const n = Math.abs(counted - shown);
  return (
    <p className="quiet">
      {counted > shown
        ? `${n} more ${n === 1 ? 'was' : 'were'} ${was} when ${n === 1 ? 'its' : 'their'} month was closed, and turned out otherwise since`
        : `${n} of these turned out after ${n === 1 ? 'its' : 'their'} month was closed, and ${n === 1 ? 'is' : 'are'} not in its figures`}
      .
    </p>
  );
}

function Clocks({ counts: row, clocks, onlyAmiss, reader, now }: Omit<Behind, 'visits'>) {
  return (
    <section>
      <h2>{onlyAmiss ? `Promises missed, ${row.missed}` : `Clocks, ${row.met} met and ${row.missed} missed`}</h2>
      {onlyAmiss && <SinceClosed counted={row.missed} shown={clocks.length} was="missed" />}
      {clocks.length === 0 ? (
        <p className="quiet">{onlyAmiss ? 'None was missed.' : 'No promise fell due in this period.'}</p>
      ) : (
        <table className="dense">
          <tbody>
            {clocks.map((c) => (
              <tr key={`${c.orderId}${c.target}${c.assetId}`}>
                <td>
                  <Link className="serial link-ink" to={`/orders/${c.orderId}/clocks`}>
                    {orderNumber(c.orderId)}
                  </Link>
                </td>
                <td className="serial">{c.tag}</td>
                <td>{c.target}</td>
                <td className={TONE[marginOf(c)]}>{sayMargin(c, now, reader)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}

function Visits({ counts: row, visits, onlyAmiss }: Pick<Behind, 'counts' | 'visits' | 'onlyAmiss'>) {
  return (
    <section>
      <h2>
        {onlyAmiss
          ? `Visits out of their window, ${row.owed - row.inWindow}`
          : `Visits, ${row.inWindow} of ${row.owed} in window`}
        {row.declined > 0 ? `, ${row.declined} declined by the customer` : ''}
      </h2>
      {onlyAmiss && <SinceClosed counted={row.owed - row.inWindow} shown={visits.length} was="late" />}
      {visits.length === 0 ? (
        <p className="quiet">{onlyAmiss ? 'None was.' : 'No window ended in this period.'}</p>
      ) : (
        <table className="dense">
          <tbody>
            {visits.map((v) => (
              <tr key={`${v.scheduleId}${v.nominal}`}>
                <td>
                  {v.orderId ? (
                    <Link className="serial link-ink" to={`/orders/${v.orderId}`}>
                      {orderNumber(v.orderId)}
                    </Link>
                  ) : (
                    ''
                  )}
                </td>
                <td>
                  {v.label}, due {sayDate(v.due)}
                </td>
                <td className={v.state === 'in window' || v.state === 'declined' ? '' : 'text-missed'}>
                  {v.state === 'in window' ? '● ' : v.state === 'declined' ? '' : '✕ '}
                  {v.state}
                  {v.completedOn ? `, done ${sayDate(v.completedOn)}` : ''}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}

/** The promises and visits behind figures. */
export const Behind = (behind: Behind) => (
  <>
    <Clocks {...behind} />
    <Visits {...behind} />
  </>
);

export function Detail({
  row,
  by,
  period,
  reader,
  now,
}: {
  row: StandingRow;
  by: StandingBy;
  period: Period;
  reader: Zone;
  now: Instant;
}) {
  const query = standingApi.useStandingDetailQuery({ query: { ...period, by, id: String(row.id) } });
  return (
    <Waiting query={query}>
      {({ clocks, visits, pledges, onlyAmiss }) => (
        <div className="grid grid-cols-2 gap-8 py-2 pl-6">
          {by === 'site' && row.id > 0 && (
            <p className="col-span-2 -mb-4">
              <Link className="link-ink" to={`/standing/place/${row.id}?from=${period.from}&to=${period.to}`}>
                Each place of it
              </Link>
            </p>
          )}
          {by === 'agreement' && (
            <p className="col-span-2 -mb-4">
              <Link className="link-ink" to={`/standing/review/${row.id}?from=${period.from}&to=${period.to}`}>
                Review of this agreement
              </Link>
            </p>
          )}
          <Course by={by} id={row.id} period={period} />
          {pledges.length > 0 && <Pledges pledges={pledges} />}
          <Behind counts={row} clocks={clocks} visits={visits} onlyAmiss={onlyAmiss} reader={reader} now={now} />
        </div>
      )}
    </Waiting>
  );
}
