// The watch: a place's machines at a glance, each channel against its band, with what is silent and what is active.
import { scaleLinear } from 'd3-scale';
import { Link, useSearchParams } from 'react-router';
import type { WatchedMachineOut } from '#api/signals.ts';
import { sayUnit } from '#core/signals/index.ts';
import { HOUR, sayLength, type Instant } from '#core/time/index.ts';
import { plural, sayValue } from '../parts/words.ts';
import { Waiting } from '../shell/waiting.tsx';
import { signalsApi } from './endpoints.ts';
import { SignalsPage } from './parts.tsx';

type Channel = WatchedMachineOut['channels'][number];
const ARROWS = { rising: '↗', falling: '↘' } as const;

/** Where a value stands against the limits it is watched by: a tick on a line, the limits as notches. */
function Against({ of: { value, low, high } }: { of: Channel }) {
  if (value === null || (low === null && high === null)) return <span className="inline-block w-28" />;
  const known = [low, high, value].filter((n): n is number => n !== null);
  const [least, most] = [Math.min(...known), Math.max(...known)];
  const pad = (most - least || Math.abs(most) || 1) * 0.25;
  const x = scaleLinear([least - pad, most + pad], [0, 110]);
  return (
    <svg width="112" height="16" viewBox="-1 0 112 16" aria-hidden="true" className="inline-block align-middle">
      <line
        x1={low === null ? 0 : x(low)}
        x2={high === null ? 110 : x(high)}
        y1="8"
        y2="8"
        stroke="var(--ink2)"
        strokeWidth="3"
        strokeOpacity="0.35"
      />
      {[low, high].map(
        (limit, i) =>
          limit !== null && (
            <line key={i} x1={x(limit)} x2={x(limit)} y1="2" y2="14" stroke="var(--short)" strokeWidth="1.5" />
          ),
      )}
      <circle cx={x(value)} cy="8" r="3.5" fill="currentColor" />
    </svg>
  );
}

function ChannelLine({ of, now }: { of: Channel; now: Instant }) {
  const isOld = now - of.at > HOUR;
  return (
    <div className={`grid grid-cols-[7rem_6rem_1rem_8rem_1fr] items-center gap-2 ${isOld ? 'text-ink2' : ''}`}>
      <span className="quiet truncate">{of.channel}</span>
      <span className="text-right tabular-nums">
        {of.word ?? (of.value === null ? '–' : sayValue(String(Number(of.value.toPrecision(5)))))} {sayUnit(of.unit)}
      </span>
      <span
        title={of.trend === null ? 'nothing to compare with an hour before' : `${of.trend}, against an hour before`}
      >
        {of.trend === null || of.trend === 'steady' ? '' : ARROWS[of.trend]}
      </span>
      <Against of={of} />
      <span className="truncate">
        {of.alert && (
          <span className={of.alert.acknowledged || of.alert.held ? '' : 'font-semibold'}>
            ◆ {of.alert.rule}
            <span className="quiet">
              {of.alert.held ? ', held back' : of.alert.acknowledged ? ', acknowledged' : ''}
            </span>
          </span>
        )}
      </span>
    </div>
  );
}

function MachineBox({ of, now }: { of: WatchedMachineOut; now: Instant }) {
  const isSilent = of.lastAt === null || now - of.lastAt > HOUR;
  return (
    <li className="border-t border-hairline py-2">
      <div className="flex items-baseline gap-3">
        <Link className="serial link-ink font-semibold" to={`/assets/${of.assetId}`}>
          {of.tag}
        </Link>
        <span>{of.model}</span>
        <span className="quiet truncate">{of.where}</span>
        <span className="ml-auto whitespace-nowrap">
          {of.outOfService && <span className="mr-3">worked on: not watched</span>}
          {isSilent ? (
            <span className="font-semibold">
              ○ {of.lastAt === null ? 'never heard' : `silent for ${sayLength(now - of.lastAt)}`}
            </span>
          ) : (
            <span className="quiet">
              ● heard {now - (of.lastAt ?? now) < 60_000 ? 'just now' : `${sayLength(now - (of.lastAt ?? now))} ago`}
            </span>
          )}
        </span>
      </div>
      <div className="mt-1 grid gap-y-0.5">
        {of.channels.map((c) => (
          <ChannelLine key={c.channel} of={c} now={now} />
        ))}
      </div>
    </li>
  );
}

export function WatchRoom() {
  const [params, setParams] = useSearchParams();
  const place = params.get('place');
  const query = signalsApi.useReadWatchQuery({ query: { ...(place && { place }) } }, { pollingInterval: 10_000 });
  return (
    <Waiting query={query}>
      {({ places, place: shown, machines, now }) => (
        <SignalsPage about={`${plural(places.length, 'place')} with machines that report`}>
          {shown === null ? (
            <p className="mt-3 border-y border-hairline py-4">
              No machine reports yet: a device is registered on its machine’s page.
            </p>
          ) : (
            <div className="mt-3 grid grid-cols-[17rem_1fr] gap-7">
              <nav aria-label="Places">
                <ul>
                  {places.map((p) => (
                    <li key={p.id}>
                      <button
                        aria-current={p.id === shown.id}
                        className={`w-full border-t border-hairline py-1.5 text-left ${p.id === shown.id ? 'bg-base-300 font-semibold' : ''}`}
                        onClick={() => setParams({ place: String(p.id) })}
                      >
                        {p.active > 0 ? '◆ ' : p.silent > 0 ? '○ ' : ''}
                        {p.name}
                        <span className="quiet block font-normal">
                          {plural(p.machines, 'machine')}
                          {p.active > 0 && `, ${p.active} with an alert`}
                          {p.silent > 0 && `, ${p.silent} silent`}
                        </span>
                      </button>
                    </li>
                  ))}
                </ul>
              </nav>
              <section aria-label={shown.name}>
                <h2>
                  {shown.name} <span className="quiet font-normal">{shown.customer}</span>
                </h2>
                <ul className="mt-1">
                  {machines.map((m) => (
                    <MachineBox key={m.assetId} of={m} now={now} />
                  ))}
                </ul>
              </section>
            </div>
          )}
        </SignalsPage>
      )}
    </Waiting>
  );
}
