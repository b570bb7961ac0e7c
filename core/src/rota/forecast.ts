// The forecast: what becomes of today's appointments as things stand, and which promises that breaks, each with its first cause.
import type { PersonId } from '../ids.ts';
import { instant, MINUTE, type Instant, type InstantSpan } from '../time/index.ts';
import { PLAIN_ROADS, type PersonDay, type Roads } from './person-day.ts';
import type { ServedPromise } from './plan-cost.ts';
import { travelBetween } from './travel.ts';

/** How far an appointment of a day is. */
export type Progress = 'to come' | 'on site' | 'over';

export type Expected = {
  readonly id: number;
  readonly personId: PersonId;
  readonly span: InstantSpan;
  /** Why it begins later than it is planned: the first cause of the day; null: it begins as planned. */
  readonly because: 'still at the one before' | 'not there yet' | null;
};

/**
 * When each appointment of a person's day is expected to begin and end: who is on site stays as long as was planned, at least until now;
 * who should be there and is not begins when they can be there from now on; what follows waits for them and for the way. An unknown way
 * takes nothing. Those that are over are left out. Source: domain-work, Rota, Forecast.
 */
export function expectedOn(
  day: PersonDay,
  progressOf: (id: number) => Progress,
  now: Instant,
  roads: Roads = PLAIN_ROADS,
): Expected[] {
  const found: Expected[] = [];
  let free: number = -Infinity;
  let at = day.start;
  let waitsFor: Expected['because'] = null;
  for (const { id, span, spot } of day.taken) {
    const progress = progressOf(id);
    const length = span.to - span.from;
    if (progress === 'over') {
      at = spot;
      continue;
    }
    const way = (travelBetween(at, spot, roads.rules, roads.known)?.minutes ?? 0) * MINUTE;
    const reached = Math.max(span.from, free + way);
    // Nobody knows whether they are on the way: they are there now at the earliest.
    const isOverdue = progress === 'to come' && reached < now;
    const from = progress === 'on site' ? span.from : isOverdue ? now : reached;
    const to = progress === 'on site' ? Math.max(span.to, now) : from + length;
    const because: Expected['because'] =
      from <= span.from ? null : isOverdue ? 'not there yet' : (waitsFor ?? 'still at the one before');
    found.push({ id, personId: day.personId, span: { from: instant(from), to: instant(to) }, because });
    waitsFor = because === 'not there yet' ? because : to > span.to ? 'still at the one before' : null;
    free = to;
    at = spot;
  }
  return found;
}

export type Risk = { readonly minutes: number; readonly cause: string };

const SAID = {
  'still at the one before': 'they are still at the one before',
  'not there yet': 'they should be there and are not yet',
} as const;

/** Whether a promise is missed by what is expected, by how many minutes, and why; null: it is kept. What nobody is planned for is at risk. */
export function riskOf(
  { dueAt, stopsAt }: Pick<ServedPromise, 'dueAt' | 'stopsAt'>,
  expected: Expected | null,
): Risk | null {
  if (expected === null) return { minutes: 0, cause: 'nobody is planned for it' };
  const late = Math.ceil(((stopsAt === 'arrival' ? expected.span.from : expected.span.to) - dueAt) / MINUTE);
  if (late <= 0) return null;
  const cause = expected.because === null ? 'it is planned too late' : SAID[expected.because];
  return { minutes: late, cause };
}
