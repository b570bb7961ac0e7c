// What stands behind a row of standing: its promises, its visits, what was pledged, and how it went.
import { Link } from 'react-router';
import type { Answer } from '#api/contract.ts';
import { type StandingBy, type standingDetail, type StandingRow } from '#api/standing.ts';
import { orderNumber } from '#api/shapes.ts';
import { marginOf } from '#core/service-levels/index.ts';
import type { Instant, Zone } from '#core/time/index.ts';
import { sayMargin, TONE } from '../parts/margin-bar.tsx';
import { sayDate } from '../parts/words.ts';
import { Waiting } from '../shell/waiting.tsx';
import type { Period } from './asked.tsx';
import { Course } from './course.tsx';
import { standingApi } from './endpoints.ts';
import { Pledges } from './pledges.tsx';

type Answered = Answer<typeof standingDetail>;

function Clocks({
  row,
  clocks,
  onlyAmiss,
  reader,
  now,
}: {
  row: StandingRow;
  clocks: Answered['clocks'];
  onlyAmiss: boolean;
  reader: Zone;
  now: Instant;
}) {
  return (
    <section>
      <h2>{onlyAmiss ? `Promises missed, ${row.missed}` : `Clocks, ${row.met} met and ${row.missed} missed`}</h2>
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

function Visits({ row, visits, onlyAmiss }: { row: StandingRow; visits: Answered['visits']; onlyAmiss: boolean }) {
  return (
    <section>
      <h2>
        {onlyAmiss
          ? `Visits out of their window, ${row.owed - row.inWindow}`
          : `Visits, ${row.inWindow} of ${row.owed} in window`}
        {row.declined > 0 ? `, ${row.declined} declined by the customer` : ''}
      </h2>
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
          {by === 'agreement' && (
            <p className="col-span-2 -mb-4">
              <Link className="link-ink" to={`/standing/review/${row.id}?from=${period.from}&to=${period.to}`}>
                Review of this agreement
              </Link>
            </p>
          )}
          <Course by={by} id={row.id} period={period} />
          {pledges.length > 0 && <Pledges pledges={pledges} />}
          <Clocks row={row} clocks={clocks} onlyAmiss={onlyAmiss} reader={reader} now={now} />
          <Visits row={row} visits={visits} onlyAmiss={onlyAmiss} />
        </div>
      )}
    </Waiting>
  );
}
