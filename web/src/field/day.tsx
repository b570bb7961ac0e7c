// My day: a vertical time line with now on it; where to be next is one wide button at the thumb's place.
import { useState } from 'react';
import { Link } from 'react-router';
import type { FieldAppointment } from '#api/field.ts';
import { nextOnSite } from '#core/field/index.ts';
import {
  addDays,
  localDateAt,
  sayTimeOfDay,
  toWallTime,
  type Instant,
  type LocalDate,
  type Zone,
} from '#core/time/index.ts';
import { StageMoon } from '../parts/stage-moon.tsx';
import { sayDateOfYear } from '../parts/words.ts';
import { actsHere, useHeld, useNow, withActs, zoneOf, type OnOrder } from './held.ts';
import { NextAct } from './next.tsx';
import { sayPromise, toneOf } from './promises.ts';
import type { PhoneState } from './phone/phone.ts';

const PIXELS_PER_HOUR = 62;
const LEAST_BOX = 56;

const clock = (at: Instant, zone: Zone): string => sayTimeOfDay(toWallTime(zone, at).minutes);
const minutesOf = (at: Instant, zone: Zone): number => toWallTime(zone, at).minutes;

type Shown = { readonly of: FieldAppointment; readonly orders: readonly OnOrder[] };

function shownOf(state: PhoneState, now: Instant): Shown[] {
  const acts = actsHere(state);
  return (state.days?.appointments ?? []).map((of) => ({
    of,
    orders: of.orderIds.flatMap((id) => {
      const held = state.orders.get(id);
      return held ? [withActs(held, acts, now)] : [];
    }),
  }));
}

/** The next one to be at: one where somebody is, else the first that is not over. */
const isOver = ({ orders }: Shown): boolean =>
  orders.length > 0 && orders.every((o) => nextOnSite(o.facts, o.here) === null);
const isThere = ({ orders }: Shown): boolean => orders.some((o) => o.here.state.stage === 'on site');
export const nextOf = (all: readonly Shown[]): Shown | undefined => all.find(isThere) ?? all.find((s) => !isOver(s));

function Box({
  shown,
  zone,
  now,
  isNext,
  from,
}: {
  shown: Shown;
  zone: Zone;
  now: Instant;
  isNext: boolean;
  from: number;
}) {
  const { of, orders } = shown;
  const top = ((minutesOf(of.from, zone) - from) / 60) * PIXELS_PER_HOUR;
  const height = Math.max(LEAST_BOX, ((of.to - of.from) / 3_600_000) * PIXELS_PER_HOUR - 4);
  const [first] = orders;
  return (
    <article className="field-box" style={{ top, height }} data-sent={of.sent} data-next={isNext}>
      {orders.map((o) => (
        <Link key={o.page.id} to={`/order/${o.page.id}`} className="flex min-h-7 items-center gap-2 font-semibold">
          <StageMoon stage={o.here.state.stage} />
          <span className="truncate">{o.page.title}</span>
        </Link>
      ))}
      {first && (
        <p className="quiet truncate">
          {clock(of.from, zone)} · {first.page.customer.name} · {first.page.lines[0]?.place}
        </p>
      )}
      {isNext &&
        orders.flatMap((o) =>
          o.page.clocks
            .filter((c) => sayPromise(c, o.here, now, zone) !== null)
            .slice(0, 1)
            .map((c) => (
              <p key={`${o.page.id} ${c.target}`} className={`font-semibold ${toneOf(c, now)}`}>
                {sayPromise(c, o.here, now, zone)}
              </p>
            )),
        )}
      {of.late !== null && <p className="text-short">said {of.late} min later</p>}
      {of.answer?.accepted === false && <p className="text-short">you said no: {of.answer.text}</p>}
    </article>
  );
}

function TimeLine({ all, date, zone, now }: { all: readonly Shown[]; date: LocalDate; zone: Zone; now: Instant }) {
  const minutes = all.flatMap(({ of }) => [minutesOf(of.from, zone), minutesOf(of.to, zone)]);
  const isToday = localDateAt(zone, now) === date;
  const [first, last] = [Math.min(8 * 60, ...minutes), Math.max(17 * 60, ...minutes)];
  const from = Math.floor(first / 60) * 60;
  const hours = Array.from({ length: Math.ceil((last - from) / 60) + 1 }, (_, i) => from + i * 60);
  const nowAt = minutesOf(now, zone);
  const next = isToday ? nextOf(all) : undefined;
  return (
    <div className="field-line" style={{ height: (hours.length - 1) * PIXELS_PER_HOUR + 16 }}>
      {hours.map((h) => (
        <div key={h} className="field-hour" style={{ top: ((h - from) / 60) * PIXELS_PER_HOUR }}>
          <span>{sayTimeOfDay(h)}</span>
        </div>
      ))}
      {isToday && nowAt >= from && nowAt <= last && (
        <div className="field-now" style={{ top: ((nowAt - from) / 60) * PIXELS_PER_HOUR }}>
          <span>
            <span className="sr-only">now </span>
            {clock(now, zone)}
          </span>
        </div>
      )}
      {all.map((shown) => (
        <Box key={shown.of.id} shown={shown} zone={zone} now={now} isNext={shown === next} from={from} />
      ))}
    </div>
  );
}

/** Orders of these days without an appointment, and those that were done today. */
function Others({ state, now }: { state: PhoneState; now: Instant }) {
  const planned = new Set((state.days?.appointments ?? []).flatMap((a) => a.orderIds));
  const acts = actsHere(state);
  const others = [...state.orders.values()].filter((o) => !planned.has(o.page.id)).map((o) => withActs(o, acts, now));
  if (others.length === 0) return null;
  return (
    <section aria-label="Without a time">
      <h2>Without a time</h2>
      {others.map((o) => (
        <Link key={o.page.id} to={`/order/${o.page.id}`} className="row">
          <StageMoon stage={o.here.state.stage} />
          <span className="min-w-0">
            <span className="block truncate font-semibold">{o.page.title}</span>
            <span className="quiet block truncate">{o.page.customer.name}</span>
          </span>
        </Link>
      ))}
    </section>
  );
}

export function DayPage() {
  const state = useHeld();
  const now = useNow();
  const zone = zoneOf(state);
  const [ahead, setAhead] = useState(0);
  if (!state.days)
    return (
      <main>
        <p>{state.net === 'gone' ? 'Nothing is on the phone yet, and there is no signal.' : 'Fetching your days …'}</p>
      </main>
    );
  const today = localDateAt(zone, now);
  const date = addDays(today, ahead);
  const all = shownOf(state, now);
  const ofDay = all.filter(({ of }) => localDateAt(zone, of.from) === date);
  const next = nextOf(all.filter(({ of }) => localDateAt(zone, of.from) === today));
  const order = next?.orders.find((o) => nextOnSite(o.facts, o.here) !== null);
  return (
    <>
      <main>
        <div className="flex gap-2" role="group" aria-label="Day">
          {Array.from({ length: state.days.days }, (_, i) => (
            <button key={i} className="plain" aria-pressed={i === ahead} onClick={() => setAhead(i)}>
              {i === 0 ? 'Today' : sayDateOfYear(addDays(today, i))}
            </button>
          ))}
        </div>
        {ofDay.length === 0 ? (
          <p className="quiet mt-4">Nothing is planned for this day.</p>
        ) : (
          <TimeLine all={ofDay} date={date} zone={zone} now={now} />
        )}
        {ahead === 0 && <Others state={state} now={now} />}
      </main>
      {next && order && <NextAct order={order} appointment={next.of} />}
    </>
  );
}
