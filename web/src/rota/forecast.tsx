// The forecast: promises that break as the rota stands, each with its first cause and what would keep it; upkeep that closes with nobody
// planned; and the coming weeks, what is to be done against the hours there are.
import { Link, useSearchParams } from 'react-router';
import type { AtRisk, Forecast } from '#api/rota-forecast.ts';
import { MINUTE, type Instant, type Zone } from '#core/time/index.ts';
import { SelectField } from '../parts/fields.tsx';
import { ErrorLine } from '../parts/problem.tsx';
import { plural, sayDate, sayHours, sayMinutes, sayMoment } from '../parts/words.ts';
import { setupApi } from '../setup/index.ts';
import { useReader } from '../shell/reader.tsx';
import { Waiting } from '../shell/waiting.tsx';
import { useActing, type Acting } from './acting.ts';
import { rotaApi } from './endpoints.ts';

const SAID = {
  response: 'respond',
  arrival: 'arrive',
  workaround: 'works for now',
  restoration: 'back in use',
} as const;

function Remedy({ of, now, zone, onTake }: { of: AtRisk; now: Instant; zone: Zone; onTake: () => void }) {
  const { remedy } = of;
  if (of.isThere) return null;
  if (!remedy) return <span className="quiet">nobody keeps it: ask the customer</span>;
  const when = sayMoment(remedy.from, now, zone);
  const spare = <span className="quiet block">{sayMinutes(remedy.margin)} to spare</span>;
  if (of.appointmentId === null)
    return (
      <>
        <button className="act" onClick={onTake}>
          Give to {remedy.name}, {when}
        </button>
        {spare}
      </>
    );
  return (
    <>
      <Link className="link-ink" to={`/rota?order=${of.orderId}`}>
        {remedy.name} could be there {when}
      </Link>
      {spare}
    </>
  );
}

function Risk({ of, now, zone, acting }: { of: AtRisk; now: Instant; zone: Zone; acting: Acting }) {
  const { remedy } = of;
  const take = (): void => {
    if (!remedy) return;
    const where = { people: [remedy.personId], from: remedy.from, minutes: (remedy.to - remedy.from) / MINUTE };
    void acting.bookAt([of.orderId], where, `${of.title}: ${remedy.name} goes ${sayMoment(remedy.from, now, zone)}`);
  };
  return (
    <tr>
      <td>
        <Link
          className="link-ink font-semibold"
          to={of.appointmentId ? `/rota?appointment=${of.appointmentId}` : `/rota?order=${of.orderId}`}
        >
          {of.title}
        </Link>
        <span className="quiet block">
          {of.place.split(' · ')[0]} · {of.customer}
        </span>
      </td>
      <td className="whitespace-nowrap">
        {SAID[of.target]} by {sayMoment(of.dueAt, now, zone)}
      </td>
      <td className={of.minutes > 0 ? 'text-missed' : 'text-short'}>
        {of.expectedAt === null
          ? of.cause
          : `expected ${sayMoment(of.expectedAt, now, zone)}, ${sayMinutes(of.minutes)} late: ${of.cause}`}
      </td>
      <td>
        <Remedy of={of} now={now} zone={zone} onTake={take} />
      </td>
    </tr>
  );
}

const WIDTH = 150;
const HEIGHT = 90;

/** Planned and loose hours of each week, on one another, against the line of the hours there are. */
function Weeks({ weeks }: { weeks: Forecast['weeks'] }) {
  const most = Math.max(60, ...weeks.flatMap((w) => [w.capacity, w.planned + w.loose])) * 1.08;
  const y = (minutes: number): number => HEIGHT - (minutes / most) * HEIGHT;
  return (
    <div className="mt-2 flex flex-wrap gap-x-3 gap-y-2">
      {weeks.map((w) => {
        const total = w.planned + w.loose;
        const isOver = total > w.capacity;
        const words = `${sayHours(w.planned)} planned and ${sayHours(w.loose)} loose of ${sayHours(w.capacity)}`;
        return (
          <figure key={w.from} role="img" aria-label={`Week of ${sayDate(w.from)}: ${words}`}>
            <svg width={WIDTH} height={HEIGHT + 1} className="block" aria-hidden>
              <rect x="0" y={y(w.planned)} width={WIDTH - 8} height={HEIGHT - y(w.planned)} fill="currentColor" />
              <rect
                x="0.5"
                y={y(total)}
                width={WIDTH - 9}
                height={y(w.planned) - y(total)}
                fill="var(--color-base-300)"
                stroke="currentColor"
              />
              <line
                x1="0"
                x2={WIDTH}
                y1={y(w.capacity)}
                y2={y(w.capacity)}
                stroke="currentColor"
                strokeDasharray="4 3"
                strokeWidth="1.5"
              />
            </svg>
            <figcaption className="text-[0.85rem]">
              <span className="font-semibold">{sayDate(w.from).slice(0, -5)}</span>
              <span className={`block ${isOver ? 'text-short' : 'quiet'}`}>
                {isOver ? `${sayHours(total - w.capacity)} too much` : `${sayHours(w.capacity - total)} free`}
              </span>
              <span className="quiet block">of {sayHours(w.capacity)}</span>
            </figcaption>
          </figure>
        );
      })}
    </div>
  );
}

function Shown({ forecast, acting }: { forecast: Forecast; acting: Acting }) {
  const { zone } = useReader();
  return (
    <>
      <section className="mt-5">
        <h2>
          {forecast.atRisk.length === 0
            ? 'Every running promise is kept as the rota stands'
            : `${plural(forecast.atRisk.length, 'promise')} at risk`}
        </h2>
        {forecast.atRisk.length > 0 && (
          <table className="dense">
            <thead>
              <tr>
                <th>Order</th>
                <th>Promised</th>
                <th>As it stands</th>
                <th>What would keep it</th>
              </tr>
            </thead>
            <tbody>
              {forecast.atRisk.map((r) => (
                <Risk key={r.orderId} of={r} now={forecast.now} zone={zone} acting={acting} />
              ))}
            </tbody>
          </table>
        )}
      </section>
      <section className="mt-7">
        <h2>Upkeep whose window closes within a week, with nobody planned</h2>
        {forecast.closing.length === 0 ? (
          <p className="quiet">None.</p>
        ) : (
          <ul>
            {forecast.closing.map((c) => (
              <li key={c.orderId} className="flex max-w-4xl justify-between gap-4 border-t border-hairline py-1">
                <span>
                  <Link className="link-ink" to={`/rota?order=${c.orderId}`}>
                    {c.title}
                  </Link>{' '}
                  <span className="quiet">
                    {c.place.split(' · ')[0]} · {c.customer}
                  </span>
                </span>
                <span className="shrink-0 tabular-nums">closes {sayMoment(c.closesAt, forecast.now, zone)}</span>
              </li>
            ))}
          </ul>
        )}
      </section>
      <section className="mt-7">
        <h2>Work against hours, week by week</h2>
        <Weeks weeks={forecast.weeks} />
        <p className="quiet mt-1">
          <span aria-hidden>▮</span> planned <span aria-hidden>▯</span> loose, in the week it is due{' '}
          <span aria-hidden>- -</span> hours there are
        </p>
      </section>
    </>
  );
}

export function ForecastRoom() {
  const [params, setParams] = useSearchParams();
  const depot = params.get('depot') ?? '';
  const skill = params.get('skill') ?? '';
  const choose = (key: string, value: string): void =>
    setParams(
      (was) => {
        if (value) was.set(key, value);
        else was.delete(key);
        return was;
      },
      { replace: true },
    );
  const { data: reference } = setupApi.useReadReferenceQuery();
  const query = rotaApi.useReadForecastQuery(
    { query: { ...(depot && { depot }), ...(skill && { skill }) } },
    { pollingInterval: 60_000 },
  );
  const acting = useActing();
  return (
    <div className="max-w-6xl px-7 pt-5 pb-12">
      <Link className="link-ink" to="/rota">
        ‹ Rota
      </Link>
      <div className="mt-1 flex items-end gap-6">
        <h1>Forecast</h1>
        <div className="w-48">
          <SelectField
            label="Depot"
            value={depot}
            onChange={(v) => choose('depot', v)}
            options={[
              ['', 'every depot'] as const,
              ...(reference?.depots ?? []).map((d) => [String(d.id), d.name] as const),
            ]}
          />
        </div>
        <div className="w-48">
          <SelectField
            label="Hours of who has the skill"
            value={skill}
            onChange={(v) => choose('skill', v)}
            options={[
              ['', 'any skill'] as const,
              ...(reference?.skills ?? []).map((x) => [String(x.id), x.name] as const),
            ]}
          />
        </div>
      </div>
      {acting.problem ? (
        <ErrorLine error={acting.problem} />
      ) : (
        <p role="status" className="min-h-6 font-semibold">
          {acting.done?.text}{' '}
          {acting.done?.back && (
            <button className="link-ink" onClick={() => void acting.undo()}>
              Undo
            </button>
          )}
        </p>
      )}
      <Waiting query={query}>{(forecast) => <Shown forecast={forecast} acting={acting} />}</Waiting>
    </div>
  );
}
