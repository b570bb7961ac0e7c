// Margin bar: the time left of one clock, draining towards its zero line; hatched while paused; past zero it grows in the missed tone. Always with words.
import type { ClockOut } from '#api/orders.ts';
import { marginOf, type Margin } from '#core/service-levels/index.ts';
import { sayLength, type Instant, type Zone } from '#core/time/index.ts';
import { sayMinutes, sayMoment, sayZone } from './words.ts';

export const TONE: Record<Margin, string> = { missed: 'text-missed', short: 'text-short', enough: 'text-enough', paused: 'text-none', none: 'text-none' };

/** "3 h 10 min of 8 h left, until Tue 11:40 (Madrid)". */
export function sayMargin(clock: ClockOut, now: Instant, reader: Zone): string {
  const zone = clock.zone as Zone;
  const elsewhere = zone === reader ? '' : ` (${sayZone(zone)})`;
  const moment = (at: Instant): string => `${sayMoment(at, now, zone)}${elsewhere}`;
  const promised = sayMinutes(clock.promisedMinutes);
  const hours = clock.measure === 'elapsed time' ? 'as days' : 'as hours';
  switch (clock.state) {
    case 'running':
      return `${sayLength(clock.left ?? 0, hours)} of ${promised} left${clock.dueAt === null ? '' : `, until ${moment(clock.dueAt)}`}`;
    case 'paused':
      return `${clock.note ?? 'paused'}, ${sayLength(clock.left ?? 0, hours)} of ${promised} left`;
    case 'met':
      return `met${clock.stoppedAt === null ? '' : ` ${moment(clock.stoppedAt)}`}, ${sayLength(clock.left ?? 0, hours)} of ${promised} to spare`;
    case 'missed':
      return `missed by ${sayLength(clock.over ?? 0, hours)}${clock.stoppedAt === null ? ', still open' : ''}${clock.dueAt === null ? '' : `, was due ${moment(clock.dueAt)}`}`;
    case 'void':
      return `no longer owed: ${clock.note ?? 'called off'}`;
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
        {margin !== 'none' && (margin === 'paused'
          ? <rect x="0" y="2" width={width} height="8" fill="url(#hatch-paused)" stroke="currentColor" strokeWidth="0.8" />
          : <rect x="0" y={margin === 'missed' ? 1 : 3} width={width} height={margin === 'missed' ? 10 : 6} fill="currentColor" fillOpacity={clock.state === 'met' ? 0.35 : 1} />)}
        <line x1="0.75" x2="0.75" y1="0" y2="12" stroke="var(--color-base-content)" strokeWidth="1.5" />
      </svg>
      <p className="text-[0.9rem] leading-snug">{sayMargin(clock, now, reader)}</p>
    </div>
  );
}
