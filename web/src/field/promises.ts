// Promises on the phone: by when, and how long that is, as far as nothing done here has kept them already.
import type { ClockOut } from '#api/orders.ts';
import type { OrderNow } from '#core/field/index.ts';
import { sayLength, type Instant, type Zone } from '#core/time/index.ts';
import { sayMoment } from '../parts/words.ts';

const VERBS: Readonly<Record<ClockOut['target'], string>> = {
  response: 'respond',
  arrival: 'arrive',
  workaround: 'work around',
  restoration: 'restore',
};

/** What was done here stops a promise before the server says so. */
function isKeptHere({ target }: ClockOut, { state, events }: OrderNow): boolean {
  if (target === 'restoration') return state.restoredAt !== null;
  if (target === 'workaround') return state.restoredAt !== null || events.some((e) => e.act.kind === 'worked around');
  return state.stage === 'on site' || state.stage === 'done';
}

/** Whether somebody still waits for a workaround: only then is one told. */
export const isWorkaroundOwed = (clocks: readonly ClockOut[], here: OrderNow): boolean =>
  clocks.some((c) => c.target === 'workaround' && c.stoppedAt === null && c.state !== 'void' && !isKeptHere(c, here));

/** "restore within 1 h 47 min (12:58)"; null: it does not run. */
export function sayPromise(clock: ClockOut, here: OrderNow, now: Instant, zone: Zone): string | null {
  if (clock.dueAt === null || clock.stoppedAt !== null || isKeptHere(clock, here)) return null;
  const verb = VERBS[clock.target];
  const left = clock.dueAt - now;
  const at = sayMoment(clock.dueAt, now, zone);
  return left >= 0
    ? `${verb} within ${sayLength(left, 'as hours')} (${at})`
    : `▲ ${verb}: ${sayLength(-left, 'as hours')} over (${at})`;
}

/** The tone of its margin: of the promised time, as in the office. */
export function toneOf({ dueAt, promisedMinutes, warnPercent }: ClockOut, now: Instant): string {
  if (dueAt === null) return 'text-none';
  const left = dueAt - now;
  if (left < 0) return 'text-missed';
  return left < (promisedMinutes * 60_000 * warnPercent) / 100 ? 'text-short' : 'text-enough';
}
