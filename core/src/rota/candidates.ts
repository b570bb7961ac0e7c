// Who should go: what speaks for each person that can, figure by figure, and in which order they are proposed.
import type { PersonId } from '../ids.ts';
import {
  daysBetween,
  MINUTE,
  sayDay,
  sayLength,
  type Instant,
  type InstantSpan,
  type LocalDate,
} from '../time/index.ts';
import { compareInOrder } from './in-order.ts';
import {
  bestTry,
  betweenOf,
  freeMinutes,
  PLAIN_ROADS,
  type Against,
  type PersonDay,
  type Roads,
  type Work,
} from './person-day.ts';
import { travelBetween } from './travel.ts';

/** What is known of an order beside its work. */
export type Promised = {
  /** When the promise that ends first does; null: none. */
  readonly dueAt: Instant | null;
  readonly preferred: ReadonlySet<PersonId>;
  /** Who was there last, and when. */
  readonly lastThere: { readonly personId: PersonId; readonly at: Instant } | null;
};

/** Figures that speak for somebody; minutes where nothing else is said. */
export type For = {
  readonly personId: PersonId;
  readonly span: InstantSpan;
  /** From arrival to the end of the promise; below zero it is missed; null: nothing was promised. */
  readonly margin: number | null;
  /** To the place and on, less the way that would have been driven anyway. */
  readonly addedTravel: number;
  readonly isPreferred: boolean;
  readonly wasThereLast: boolean;
  /** The last date of the needed skill that lapses first; null: none does. */
  readonly lapsesAfter: LocalDate | null;
  /** Free on the day, before this. */
  readonly free: number;
};

export type Candidates = {
  /** Those who can go, whom to ask first in front. */
  readonly can: readonly For[];
  /** Those who cannot, with all that speaks against it where least does. */
  readonly cannot: readonly {
    readonly personId: PersonId;
    readonly span: InstantSpan;
    readonly reasons: readonly Against[];
  }[];
};

function addedBy(day: PersonDay, work: Work, span: InstantSpan, roads: Roads): number {
  const { before, after, there, on } = betweenOf(day, work.spot, span, roads);
  const direct = travelBetween(before?.spot ?? day.start, after?.spot ?? day.start, roads.rules, roads.known);
  return (there?.minutes ?? 0) + (on?.minutes ?? 0) - (direct?.minutes ?? 0);
}

function lapsesAfterOf({ skills }: PersonDay, work: Work): LocalDate | null {
  const dates = work.skills.flatMap(({ skillId }) => {
    // Of one skill held twice the longer certificate counts.
    const held = skills.filter((s) => s.skillId === skillId);
    return held.some((s) => s.until === null)
      ? []
      : held
          .map((s) => s.until as LocalDate)
          .sort()
          .slice(-1);
  });
  return dates.sort()[0] ?? null;
}

// In steps, so that a minute of margin does not outweigh an hour on the road.
const MARGIN_STEP = 60;
const TRAVEL_STEP = 5;
const LOAD_STEP = 60;
/** A certificate that holds for longer than so many days more is not about to lapse. */
const SOON_DAYS = 30;

const stepsOf = (value: number, step: number): number => Math.floor(value / step);

/** The figures of a person as they are compared, the smaller the better, each in its step. */
function rankOf(of: For, today: LocalDate): number[] {
  const { margin, addedTravel, isPreferred, wasThereLast, lapsesAfter, free } = of;
  return [
    margin !== null && margin < 0 ? -margin : 0,
    margin === null ? 0 : -stepsOf(Math.max(0, margin), MARGIN_STEP),
    stepsOf(addedTravel, TRAVEL_STEP),
    isPreferred ? 0 : 1,
    wasThereLast ? 0 : 1,
    lapsesAfter !== null && daysBetween(today, lapsesAfter) <= SOON_DAYS ? 1 : 0,
    -stepsOf(free, LOAD_STEP),
    // The same for everybody who asks.
    of.personId,
  ];
}

/**
 * Who can go from an instant on, each at the earliest of their times, best first: the promise kept and with most margin, added travel,
 * the customer's preferred, who was there last, a certificate that is not about to lapse, and an even load. Those who cannot are given
 * with all that speaks against the time of their day at which least does.
 * Source: domain-work, Rota, Should go.
 */
export function candidatesFor(
  days: readonly PersonDay[],
  work: Work,
  promised: Promised,
  from: Instant,
  roads: Roads = PLAIN_ROADS,
): Candidates {
  const can: { of: For; rank: number[] }[] = [];
  const cannot: Candidates['cannot'][number][] = [];
  for (const day of days) {
    const { span, against } = bestTry(day, work, from, roads);
    const { personId } = day;
    if (against.length > 0) {
      cannot.push({ personId, span, reasons: against });
      continue;
    }
    const of: For = {
      ...{ personId, span, addedTravel: addedBy(day, work, span, roads), free: freeMinutes(day, roads) },
      margin: promised.dueAt === null ? null : Math.floor((promised.dueAt - span.from) / MINUTE),
      isPreferred: promised.preferred.has(personId),
      wasThereLast: promised.lastThere?.personId === personId,
      lapsesAfter: lapsesAfterOf(day, work),
    };
    can.push({ of, rank: rankOf(of, day.date) });
  }
  return { can: can.sort((a, b) => compareInOrder(a.rank, b.rank)).map((c) => c.of), cannot };
}

/** Why they are proposed, in words; only what says something. */
export function sayFor({ margin, addedTravel, isPreferred, wasThereLast, lapsesAfter, free }: For): string[] {
  const hours = (minutes: number): string => sayLength(minutes * MINUTE, 'as hours');
  return [
    margin === null
      ? ''
      : margin >= 0
        ? `${hours(margin)} before the promise ends`
        : `${hours(-margin)} after the promise ended`,
    addedTravel > 0
      ? `${addedTravel} min more travel`
      : addedTravel < 0
        ? `${-addedTravel} min less travel`
        : 'no more travel',
    isPreferred ? 'preferred by the customer' : '',
    wasThereLast ? 'was there last' : '',
    lapsesAfter === null ? '' : `certificate until ${sayDay(lapsesAfter)}`,
    `${hours(free)} free that day`,
  ].filter((x) => x !== '');
}
