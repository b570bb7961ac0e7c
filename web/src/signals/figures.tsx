// How alerts behave: how many, how long, which again and again, and what came of them.
import { useState } from 'react';
import { scaleLinear } from 'd3-scale';
import { Link } from 'react-router';
import { FIGURE_DAYS, type AlertFigures } from '#api/signals.ts';
import { sayLength } from '#core/time/index.ts';
import { plural, sayShare } from '../parts/words.ts';
import { Waiting } from '../shell/waiting.tsx';
import { signalsApi } from './endpoints.ts';
import { OneOf, SignalsPage } from './parts.tsx';

const round = (n: number): string => n.toFixed(n < 10 ? 2 : 0);

/** Alerts by the day, as bars on the line of time. */
function Days({ days }: { days: AlertFigures['days'] }) {
  const most = Math.max(1, ...days.map((d) => d.alerts));
  const x = scaleLinear([0, days.length], [0, 1000]);
  const y = scaleLinear([0, most], [0, 56]);
  return (
    <figure className="mt-3">
      <svg
        viewBox="0 0 1000 60"
        preserveAspectRatio="none"
        width="100%"
        height="60"
        role="img"
        aria-label={`Alerts by day, at most ${most}`}
      >
        <line x1="0" x2="1000" y1="59.5" y2="59.5" stroke="var(--hairline)" vectorEffect="non-scaling-stroke" />
        {days.map((d, i) => (
          <rect
            key={d.day}
            x={x(i) + 1}
            width={Math.max(1, x(1) - 2)}
            y={59 - y(d.alerts)}
            height={y(d.alerts)}
            fill="currentColor"
          >
            <title>{`${d.day}: ${d.alerts}`}</title>
          </rect>
        ))}
      </svg>
      <figcaption className="quiet flex justify-between">
        <span>{days[0]?.day}</span>
        <span>most on a day: {most}</span>
        <span>{days.at(-1)?.day}</span>
      </figcaption>
    </figure>
  );
}

function Figure({ figure, what, than }: { figure: string; what: string; than?: string }) {
  return (
    <div className="border-t border-hairline py-2">
      <div className="text-xl tabular-nums">{figure}</div>
      <div>{what}</div>
      {than && <div className="quiet">{than}</div>}
    </div>
  );
}

function TopTen({ top }: { top: AlertFigures['top'] }) {
  return (
    <>
      <h2 className="mt-6">The ten that come most</h2>
      {top.length === 0 ? (
        <p className="quiet border-y border-hairline py-2">No alert in this time.</p>
      ) : (
        <table className="dense mt-1" aria-label="The ten that come most">
          <thead>
            <tr>
              <th>Rule</th>
              <th>Machine</th>
              <th className="num">Alerts</th>
              <th className="num">Active for</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {top.map((t) => (
              <tr key={`${t.ruleId}/${t.assetId}`}>
                <td className="font-semibold">{t.rule}</td>
                <td>
                  {t.model}{' '}
                  <Link className="serial link-ink" to={`/assets/${t.assetId}`}>
                    {t.tag}
                  </Link>
                </td>
                <td className="num">{t.alerts}</td>
                <td className="num">{sayLength(t.seconds * 1000)}</td>
                <td className="quiet">{t.chatters ? 'chattering: look at its delays and deadband' : ''}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </>
  );
}

export function FiguresRoom() {
  const [days, setDays] = useState<(typeof FIGURE_DAYS)[number]>(7);
  const query = signalsApi.useReadAlertFiguresQuery({ query: { days: String(days) } });
  return (
    <Waiting query={query}>
      {(f) => (
        <SignalsPage about={`${plural(f.alerts, 'alert')} in ${days === 1 ? 'a day' : `${days} days`}`}>
          <div className="mt-3">
            <OneOf
              label="Period"
              options={FIGURE_DAYS.map((n) => [n, n === 1 ? 'a day' : `${n} days`] as const)}
              chosen={days}
              onChoose={setDays}
            />
          </div>
          <Days days={f.days} />
          <div className="mt-4 grid grid-cols-4 gap-x-6">
            <Figure figure={round(f.perHour)} what="alerts an hour" than="one person answers about six well" />
            <Figure
              figure={String(f.mostInTenMinutes)}
              what="most in ten minutes"
              than={`more than ten: ${sayShare(f.floodShare)} of the time`}
            />
            <Figure figure={String(f.standing)} what="active for more than a day" />
            <Figure figure={String(f.chattering)} what="chattering: a rule at a machine" />
            <Figure
              figure={f.toAnswerSeconds === null ? '–' : sayLength(f.toAnswerSeconds * 1000)}
              what="until somebody acknowledged"
              than="half of them sooner"
            />
            <Figure
              figure={f.told === 0 ? '–' : sayShare(f.ordered / f.told)}
              what="led to an order"
              than={`${f.ordered} of ${f.told} that were told`}
            />
            <Figure
              figure={f.settledOrders === 0 ? '–' : sayShare(f.faults / f.settledOrders)}
              what="of those done found a fault"
              than={`${f.faults} of ${plural(f.settledOrders, 'order')}`}
            />
            <Figure figure={String(f.withdrawn)} what="withdrawn" than={`${f.heldBack} held back`} />
          </div>
          <TopTen top={f.top} />
        </SignalsPage>
      )}
    </Waiting>
  );
}
