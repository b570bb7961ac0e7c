// What a change of a calendar would do, looked at before it is saved: promises that run, and visits to come.
import { useState } from 'react';
import { Link } from 'react-router';
import type { CalendarEffect } from '#api/calendar-effect.ts';
import type { CalendarIn } from '#api/setup.ts';
import { orderNumber } from '#api/shapes.ts';
import type { Zone } from '#core/time/index.ts';
import { ErrorLine } from '../parts/problem.tsx';
import { plural, sayDate, sayMoment } from '../parts/words.ts';
import { server } from '../shell/store.ts';
import { setupApi } from './endpoints.ts';

type Clock = CalendarEffect['clocks']['changed'][number];

const turned = ({ missedBefore, missedAfter }: Clock): string =>
  missedAfter === missedBefore ? '' : missedAfter ? 'missed by it' : 'no longer missed';

function Clocks({ clocks }: { clocks: CalendarEffect['clocks'] }) {
  const { data: session } = server.useReadSessionQuery();
  if (clocks.orders === 0) return <p>No clock that runs counts by it.</p>;
  const said = [
    ...(clocks.later > 0 ? [`${clocks.later} due later`] : []),
    ...(clocks.earlier > 0 ? [`${clocks.earlier} due earlier`] : []),
    ...(clocks.missedMore > 0 ? [`${clocks.missedMore} missed by it`] : []),
    ...(clocks.missedLess > 0 ? [`${clocks.missedLess} no longer missed`] : []),
  ];
  const now = session?.now;
  const moment = (at: Clock['dueAfter'], zone: string): string =>
    at === null ? 'while it stands still' : now === undefined ? '' : sayMoment(at, now, zone as Zone);
  return (
    <>
      <p>
        Promises: <span className="font-semibold">{said.length === 0 ? 'nothing changes' : said.join(', ')}</span>{' '}
        <span className="quiet">
          of {plural(clocks.orders, 'order')} that {clocks.orders === 1 ? 'counts' : 'count'} by it
          {clocks.looked < clocks.orders && `; the ${clocks.looked} due first were looked at`}.
        </span>
      </p>
      {clocks.changed.length > 0 && (
        <table className="dense max-w-3xl">
          <tbody>
            {clocks.changed.map((c) => (
              <tr key={`${c.orderId} ${c.tag} ${c.target}`}>
                <td>
                  <Link className="serial link-ink" to={`/orders/${c.orderId}`}>
                    {orderNumber(c.orderId)}
                  </Link>{' '}
                  {c.title}
                </td>
                <td>
                  <span className="serial">{c.tag}</span> {c.target}
                </td>
                <td>
                  {moment(c.dueBefore, c.zone)} → <span className="font-semibold">{moment(c.dueAfter, c.zone)}</span>
                </td>
                <td className={c.missedAfter ? 'text-missed' : ''}>{turned(c)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </>
  );
}

function Visits({ visits }: { visits: CalendarEffect['visits'] }) {
  const { closes, opens, moves, moved, schedules, looked } = visits;
  const days = (word: string, all: readonly CalendarEffect['from'][]): string =>
    all.length === 0 ? '' : `${word} ${all.map(sayDate).join(', ')}`;
  const said = [days('closes on', closes), days('opens on', opens)].filter((x) => x !== '').join('; ');
  if (said === '') return <p>Visits: the same days are worked on in the half year from then.</p>;
  return (
    <>
      <p>
        It {said}. Visits:{' '}
        <span className="font-semibold">{moves === 0 ? 'none moves' : `${plural(moves, 'visit')} would move`}</span>
        {looked < schedules && (
          <span className="quiet">
            {' '}
            of the first {looked} of {schedules} schedules near
          </span>
        )}
        .
      </p>
      {moved.length > 0 && (
        <table className="dense max-w-3xl">
          <tbody>
            {moved.map((v) => (
              <tr key={`${v.scheduleId} ${v.before}`}>
                <td>
                  <span className="serial">{v.tag}</span> {v.work}
                </td>
                <td>
                  {sayDate(v.before)} → <span className="font-semibold">{sayDate(v.after)}</span>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </>
  );
}

/** Asked for what stands in the form now; once that is another, it is asked for again. */
export function LookAtEffect({
  id,
  body,
}: {
  id: number;
  body: CalendarIn & { readonly version: number; readonly holdsFrom: string | null };
}) {
  const [asked, setAsked] = useState<string | null>(null);
  const now = JSON.stringify(body);
  const query = setupApi.usePreviewCalendarQuery(
    { params: { id: String(id) }, body: JSON.parse(asked ?? now) as typeof body },
    { skip: asked === null },
  );
  const isShown = asked === now;
  return (
    <section aria-label="What it would change" className="space-y-2 border-t border-hairline pt-3">
      <div className="flex items-baseline gap-3">
        <button type="button" className="act" onClick={() => setAsked(now)} disabled={isShown && query.isFetching}>
          See what it would change
        </button>
        <span className="quiet">
          {isShown && query.isFetching ? 'worked out …' : 'Clocks that run and visits to come, before it is saved.'}
        </span>
      </div>
      {isShown && query.currentData && (
        <>
          <Clocks clocks={query.currentData.clocks} />
          <Visits visits={query.currentData.visits} />
        </>
      )}
      {isShown && <ErrorLine error={query.error} />}
    </section>
  );
}
