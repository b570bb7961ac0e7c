// A statement's data: what was promised to a customer and what came of it, with all that is needed to work each clock out again.
import { workingTimeOf, ELAPSED_TIME, type Calendar, type WorkingTime } from '../calendars/index.ts';
import {
  derivationOf,
  isNever,
  type Clock,
  type ClockEvent,
  type GivenPromise,
  type PauseReason,
  type Target,
} from '../service-levels/index.ts';
import { addDays, asInstant, asLocalDate, asZone, formatInstant, localDateAt } from '../time/index.ts';
import { attainmentOf, type Attainment, type CountedClock } from './attainment.ts';

/** Times as ISO 8601 in UTC, lengths in minutes; calendars by their numbers. */
export type StatedClock = {
  readonly order: string;
  readonly asset: string;
  readonly target: Target;
  /** By whose days it counts: those of its place. */
  readonly zone: string;
  readonly startedAt: string;
  readonly promisedMinutes: number;
  /** Null: elapsed time. */
  readonly calendar: number | null;
  readonly pauses: readonly PauseReason[];
  readonly events: readonly { readonly kind: ClockEvent['kind']; readonly at: string; readonly reason?: PauseReason }[];
  /** What the statement says of it. */
  readonly state: Clock['state'];
  readonly dueAt: string | null;
  readonly overMinutes: number;
};

export const STATEMENT_FORM = 2;
export type StatementData = {
  readonly form: typeof STATEMENT_FORM;
  readonly customer: string;
  /** Both days included, by each place’s own. */
  readonly from: string;
  readonly to: string;
  /** When it was worked out. */
  readonly asOf: string;
  readonly calendars: readonly (Calendar & { readonly number: number })[];
  readonly clocks: readonly StatedClock[];
  readonly met: number;
  readonly missed: number;
};

/** What a clock is said to be, from what it was worked out to. */
export const statedOf = (clock: Clock): Pick<StatedClock, 'state' | 'dueAt' | 'overMinutes'> => ({
  state: clock.state,
  dueAt: 'dueAt' in clock ? formatInstant(clock.dueAt) : null,
  overMinutes: clock.state === 'missed' ? Math.round(clock.over / 60_000) : 0,
});

export type Recomputed = {
  readonly clocks: number;
  readonly attainment: Attainment;
  /** What comes out otherwise than it is stated, in a line each. */
  readonly differences: readonly string[];
};

/** Works a statement out again from its own data: every clock, and how many were met and missed. Source: issue of Standing (statement). */
export function recompute(data: StatementData): Recomputed {
  const times = new Map<number, WorkingTime>(data.calendars.map((c) => [c.number, workingTimeOf(c)]));
  const asOf = asInstant(data.asOf);
  const differences: string[] = [];
  const counted: CountedClock[] = [];
  for (const stated of data.clocks) {
    const name = `${stated.order}, ${stated.asset}, ${stated.target}`;
    const time = stated.calendar === null ? ELAPSED_TIME : times.get(stated.calendar);
    if (!time) {
      differences.push(`${name}: its calendar ${stated.calendar} is not in the file`);
      continue;
    }
    const { clock } = derivationOf(
      stated.target,
      givenOf(stated),
      asInstant(stated.startedAt),
      stated.events.map(eventOf),
      time,
      asOf,
    );
    const found = statedOf(clock);
    for (const field of ['state', 'dueAt', 'overMinutes'] as const)
      if (found[field] !== stated[field])
        differences.push(`${name}: ${field} ${String(stated[field])} is stated, ${String(found[field])} comes out`);
    const dueAt = 'dueAt' in clock && !isNever(clock.dueAt) ? clock.dueAt : null;
    counted.push({ state: clock.state, dueAt, dueOn: dueAt && localDateAt(asZone(stated.zone), dueAt) });
  }
  const period = { from: asLocalDate(data.from), to: addDays(asLocalDate(data.to), 1) };
  const attainment = attainmentOf(counted, period, asOf);
  for (const field of ['met', 'missed'] as const)
    if (attainment[field] !== data[field])
      differences.push(`${field}: ${data[field]} are stated, ${attainment[field]} come out`);
  return { clocks: data.clocks.length, attainment, differences };
}

function givenOf({ promisedMinutes, calendar, pauses }: StatedClock): GivenPromise {
  const promise =
    calendar === null
      ? ({ minutes: promisedMinutes, measure: 'elapsed' } as const)
      : ({ minutes: promisedMinutes, measure: 'working', calendarId: calendar as never } as const);
  return { promise, pauses, serviceLevelId: 0 as never };
}

const eventOf = ({ kind, at, reason }: StatedClock['events'][number]): ClockEvent =>
  kind === 'paused' ? { kind, at: asInstant(at), reason: reason as PauseReason } : { kind, at: asInstant(at) };
