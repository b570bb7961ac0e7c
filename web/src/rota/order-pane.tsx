// An order that is to be planned: what it asks, what it was promised, and who can go.
import { Link } from 'react-router';
import { useState } from 'react';
import { readCandidates, type Candidate, type OrderWorkOut } from '#api/rota.ts';
import { orderNumber } from '#api/shapes.ts';
import { DAY, MINUTE, type Instant, type LocalDate, type Zone } from '#core/time/index.ts';
import { NumberField } from '../parts/fields.tsx';
import { sayMinutes, sayMoment, sayZone } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { WhoCanGo } from './candidates.tsx';

/** A window that ends so far ahead has no end of its own. */
const YEAR = 365 * DAY;

const SAID = {
  ...{ response: 'Respond by', arrival: 'Arrive by', workaround: 'Works for now by', restoration: 'Back in use by' },
} as const;
const toneOf = (dueAt: Instant, now: Instant): string =>
  dueAt < now ? 'text-missed' : dueAt < now + 240 * MINUTE ? 'text-short' : 'text-enough';
const SAID_BY = { plan: '', 'past work': ', as past work took', assumed: ', assumed: nothing says how long' } as const;

export function OrderHead({ of, now, zone }: { of: OrderWorkOut; now: Instant; zone: Zone }) {
  const { work } = of;
  return (
    <header>
      <p className="quiet">
        <Link className="link-ink serial" to={`/orders/${of.orderId}`}>
          {orderNumber(of.orderId)}
        </Link>{' '}
        · {of.kind} · priority {of.priority}
      </p>
      <h1 className="mt-0.5">{of.title}</h1>
      <p className="font-semibold">{[of.tag, of.place].filter(Boolean).join(' · ')}</p>
      <p className="quiet">
        {of.customer}
        {of.zone !== zone && ` · it is in ${sayZone(of.zone)}`}
      </p>
      <p className="quiet mt-1">
        {sayMinutes(work.minutes)}
        {SAID_BY[of.minutesBy]}
        {of.crew > 1 && ` · ${of.crew} people`}
        {work.skills.length > 0 && ` · ${work.skills.map((s) => s.name).join(', ')}`}
        {work.lacks && ` · lacks ${work.lacks}`}
      </p>
      {of.clocks.length > 0 && (
        <ul className="mt-1 font-semibold">
          {of.clocks.map((c) => (
            <li key={c.target} className={toneOf(c.dueAt, now)}>
              {SAID[c.target]} {sayMoment(c.dueAt, now, zone)}
            </li>
          ))}
        </ul>
      )}
      {of.window && (
        <p className="quiet">
          {of.window.to > now + YEAR
            ? `to begin from ${sayMoment(of.window.from, now, zone)}, when its parts are here`
            : `to begin ${sayMoment(of.window.from, now, zone)} to ${sayMoment(of.window.to, now, zone)}`}
        </p>
      )}
    </header>
  );
}

type Props = {
  readonly of: OrderWorkOut;
  readonly now: Instant;
  readonly zone: Zone;
  readonly from: LocalDate;
  readonly onGive: (of: Candidate, minutes: number) => void;
  readonly onCarry: () => void;
};

export function OrderPane({ of, now, zone, from, onGive, onCarry }: Props) {
  const mayPlan = useReader().may(readCandidates);
  const [minutes, setMinutes] = useState(NaN);
  const asked = Number.isInteger(minutes) && minutes >= 5 && minutes % 5 === 0 ? String(minutes) : '';
  return (
    <>
      <OrderHead of={of} now={now} zone={zone} />
      {mayPlan && (
        <>
          <div className="mt-2 flex items-end gap-3">
            <NumberField
              className="w-28"
              label="Minutes"
              value={Number.isNaN(minutes) ? of.work.minutes : minutes}
              onChange={setMinutes}
              min={5}
              step="5"
            />
            <button className="act" onClick={onCarry}>
              <kbd className="serial">m</kbd> Move by keys
            </button>
          </div>
          <WhoCanGo orderId={of.orderId} from={from} zone={zone} minutes={asked} onGive={onGive} />
        </>
      )}
    </>
  );
}
