// Who can go: each with the earliest of their times and what speaks for it, whom to ask first in front; one key gives it to them.
import { useState } from 'react';
import type { Candidate, CandidatesOut } from '#api/rota.ts';
import type { Instant, Zone } from '#core/time/index.ts';
import { ErrorLine } from '../parts/problem.tsx';
import { sayMinutes, sayMoment, sayTime } from '../parts/words.ts';
import { useActKeys } from '../shell/keys.ts';
import { rotaApi } from './endpoints.ts';

const SHOWN = 3;
const KEYS = ['1', '2', '3', '4', '5', '6', '7', '8', '9'];

const sayWhen = ({ from, to }: Candidate, now: Instant, zone: Zone): string =>
  `${sayMoment(from, now, zone)} to ${sayTime(to, zone)}`;

const firstName = (name: string): string => name.split(' ')[0] ?? name;

function One({
  of,
  at,
  now,
  zone,
  onGive,
}: {
  of: Candidate;
  at: number;
  now: Instant;
  zone: Zone;
  onGive: () => void;
}) {
  const isMissed = of.margin !== null && of.margin < 0;
  return (
    <li className="border-t border-hairline py-2">
      <div className="flex items-baseline justify-between gap-2">
        <span className="font-semibold">{of.name}</span>
        <span className="shrink-0 tabular-nums">{sayWhen(of, now, zone)}</span>
      </div>
      <p className={isMissed ? 'text-missed' : 'quiet'}>{of.reasons.join(', ')}</p>
      <p className="quiet">{of.travel}</p>
      <button className={`${at === 0 ? 'act-main' : 'act'} mt-1`} onClick={onGive}>
        <kbd className="serial">{KEYS[at]}</kbd> Give to {firstName(of.name)}
      </button>
    </li>
  );
}

function Cannot({ of }: { of: CandidatesOut['cannot'] }) {
  if (of.length === 0) return null;
  return (
    <section className="mt-3">
      <h2>Who cannot, and why</h2>
      <dl className="mt-1 space-y-1">
        {of.map((c) => (
          <div key={c.personId} className="flex justify-between gap-3">
            <dt className="shrink-0">{c.name}</dt>
            <dd className="quiet text-right">{[...new Set(c.reasons.map((r) => r.text))].join('; ')}</dd>
          </div>
        ))}
      </dl>
    </section>
  );
}

export function WhoCanGo({
  orderId,
  from,
  zone,
  minutes,
  onGive,
}: {
  orderId: number;
  from: string;
  zone: Zone;
  minutes: string;
  onGive: (of: Candidate, minutes: number) => void;
}) {
  const [all, setAll] = useState(false);
  const {
    currentData: data,
    error,
    isFetching,
  } = rotaApi.useReadWhoCanGoQuery({
    params: { id: String(orderId) },
    query: { from, days: '5', ...(minutes !== '' && { minutes }) },
  });
  const can = data?.can ?? [];
  const give = (i: number): (() => void) | null => {
    const of = can[i];
    return of && data ? () => onGive(of, data.minutes) : null;
  };
  useActKeys(Object.fromEntries(KEYS.map((key, i) => [key, give(i)])));
  if (error) return <ErrorLine error={error} />;
  if (!data) return <p className="quiet mt-3">Looking who can go …</p>;
  return (
    <>
      <section className="mt-3" aria-busy={isFetching}>
        <h2>Who can go</h2>
        {can.length === 0 && (
          <p className="mt-1">
            Nobody within five days as it stands. Drag it where it must go, or look at a later day.
          </p>
        )}
        <ol>
          {can.slice(0, all ? KEYS.length : SHOWN).map((c, i) => (
            <One key={c.personId} of={c} at={i} now={data.now} zone={zone} onGive={() => give(i)?.()} />
          ))}
        </ol>
        {can.length > SHOWN && !all && (
          <button className="link-ink" onClick={() => setAll(true)}>
            {can.length - SHOWN} more can go
          </button>
        )}
        {data.crew > 1 && (
          <p className="quiet mt-1">The work is for {data.crew}: give it to one, then add who goes with them.</p>
        )}
        <p className="quiet mt-1">{sayMinutes(data.minutes)} of work.</p>
      </section>
      <Cannot of={data.cannot} />
    </>
  );
}
