// Margin bar: the time left of one clock, draining towards its zero line; hatched while paused; past zero it grows in the missed tone. Always with words.
import type { ClockOut } from '#api/orders.ts';
import { marginOf, type Margin } from '#core/service-levels/index.ts';
import { sayLength, type Instant, type Zone } from '#core/time/index.ts';
import { sayMinutes, sayMoment, sayZone } from './words.ts';

export const TONE: Record<Margin, string> = {
  missed: 'text-missed',
  short: 'text-short',
  enough: 'text-enough',
  paused: 'text-none',
  none: 'text-none',
};

/** What is left or over, without the moment: "3 h 10 min of 8 h left". */
export function sayLeft(clock: ClockOut): string {
  const promised = sayMinutes(clock.promisedMinutes);
  const length = (ms: number | null): string =>
    sayLength(ms ?? 0, clock.measure === 'elapsed time' ? 'as days' : 'as hours');
  switch (clock.state) {
    case 'running':
      return `${length(clock.left)} of ${promised} left`;
    case 'paused':
      return `${clock.note ?? 'paused'}, ${length(clock.left)} of ${promised} left`;
    case 'met':
      return `met, ${length(clock.left)} of ${promised} to spare`;
    case 'missed':
      return `missed by ${length(clock.over)}${clock.stoppedAt === null ? ', still open' : ''}`;
    case 'void':
      return `no longer owed: ${clock.note ?? 'called off'}`;
  }
}

/** "3 h 10 min of 8 h left, until Tue 11:40 (Madrid)": the zone stands there where it differs from the reader's. */
export function sayMargin(clock: ClockOut, now: Instant, reader: Zone): string {
  const zone = clock.zone as Zone;
  const moment = (at: Instant | null, before: string): string =>
    at === null ? '' : `, ${before} ${sayMoment(at, now, zone)}${zone === reader ? '' : ` (${sayZone(zone)})`}`;
  switch (clock.state) {
    case 'running':
      return sayLeft(clock) + moment(clock.dueAt, 'until');
    case 'met':
      return sayLeft(clock) + moment(clock.stoppedAt, 'at');
    case 'missed':
      return sayLeft(clock) + moment(clock.dueAt, 'was due');
    case 'paused':
    case 'void':
      return sayLeft(clock);
  }
}

export function MarginBar({ clock, now, reader }: { clock: ClockOut; now: Instant; reader: Zone }) {
  const margin = marginOf(clock);
  const promised = clock.promisedMinutes * 60_000;
  const share = Math.min(1, margin === 'missed' ? (clock.over ?? 0) / promised : (clock.left ?? 0) / promised);
  const width = `${Math.max(share * 92, 2).toFixed(1)}%`;
  return (
    <div className={TONE[margin]} data-margin={margin}>
      <svg width="100%" height="12" aria-hidden="true" className="block max-w-64">
        <rect x="0" y="5.5" width="92%" height="1" fill="var(--hairline)" />
        {margin !== 'none' &&
          (margin === 'paused' ? (
            <rect
              x="0"
              y="2"
              width={width}
              height="8"
              fill="url(#hatch-paused)"
              stroke="currentColor"
              strokeWidth="0.8"
            />
          ) : (
            <rect
              x="0"
              y={margin === 'missed' ? 1 : 3}
              width={width}
              height={margin === 'missed' ? 10 : 6}
              fill="currentColor"
              fillOpacity={clock.state === 'met' ? 0.35 : 1}
            />
          ))}
        <line x1="0.75" x2="0.75" y1="0" y2="12" stroke="var(--color-base-content)" strokeWidth="1.5" />
      </svg>
      <p className="text-[0.9rem] leading-snug">{sayMargin(clock, now, reader)}</p>
    </div>
  );
}
