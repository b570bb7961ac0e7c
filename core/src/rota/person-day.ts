// A person's day as it is planned, and what speaks against putting one more appointment into it.
import type { PersonId, SkillId } from '../ids.ts';
import {
  instant,
  liesIn,
  meets,
  merged,
  MINUTE,
  minutesIn,
  sayDate,
  without,
  type Instant,
  type InstantSpan,
  type LocalDate,
} from '../time/index.ts';
import { travelBetween, TRAVEL_RULES, type KnownTimes, type Spot, type Travel, type TravelRules } from './travel.ts';

/** What a person may do; `until` is the last date on which it holds, null without end. */
export type HeldSkill = { readonly skillId: SkillId; readonly until: LocalDate | null };
export type Absence = InstantSpan & { readonly why: string };
export type Taken = { readonly id: number; readonly span: InstantSpan; readonly spot: Spot };

export type PersonDay = {
  readonly personId: PersonId;
  readonly date: LocalDate;
  /** Where the day begins and ends. */
  readonly start: Spot;
  /** Open time of their calendar, merged. */
  readonly open: readonly InstantSpan[];
  readonly absences: readonly Absence[];
  /** Appointments, in order of time. */
  readonly taken: readonly Taken[];
  readonly skills: readonly HeldSkill[];
  /** Nobody leaves before: now, on the day it is; without it the whole day is still to come. */
  readonly leavesFrom?: Instant;
};

export type Work = {
  readonly spot: Spot;
  readonly minutes: number;
  readonly skills: readonly { readonly skillId: SkillId; readonly name: string }[];
  /** Whom the customer does not want. */
  readonly blocked: ReadonlySet<PersonId>;
  /** It begins inside, both ends included. */
  readonly window: InstantSpan | null;
  /** When the place may be entered, merged; null: always. */
  readonly site: readonly InstantSpan[] | null;
  /** The part it needs and that is nowhere to be had for it, in words. */
  readonly lacks: string | null;
};

export const AGAINST = [
  'skill',
  'blocked',
  'absence',
  'overlap',
  'travel',
  'site hours',
  'part',
  'window',
  'open time',
] as const;
/** `binds`: nothing but another fact helps; the others a plan may break, named, and a person after a yes. */
export type Against = { readonly what: (typeof AGAINST)[number]; readonly binds: boolean; readonly text: string };

export type Roads = { readonly rules: TravelRules; readonly known: KnownTimes };
export const PLAIN_ROADS: Roads = { rules: TRAVEL_RULES, known: () => undefined };

/** Open time without absences: what a person can be planned for. Source: domain-work, Rota. */
export const capacityOf = ({ open, absences }: Pick<PersonDay, 'open' | 'absences'>): InstantSpan[] =>
  without(open, merged(absences));

const minutesLater = (at: Instant, minutes: number): Instant => instant(at + minutes * MINUTE);

/** Appointments begin and end in steps of so many minutes: what nobody keeps to the minute is not planned to the minute. */
export const STEP_MINUTES = 5;
const STEP = STEP_MINUTES * MINUTE;
/** The first step at or after an instant. */
export const atStep = (at: number): Instant => instant(Math.ceil(at / STEP) * STEP);
/** A length in whole steps. */
export const inSteps = (minutes: number): number => Math.ceil(minutes / STEP_MINUTES) * STEP_MINUTES;

/** What lies before and after a span among the appointments, and the travel there and on. */
export type Between = {
  readonly before: Taken | null;
  readonly after: Taken | null;
  readonly there: Travel | null;
  readonly on: Travel | null;
};

export function betweenOf(
  { start, taken }: Pick<PersonDay, 'start' | 'taken'>,
  spot: Spot,
  span: InstantSpan,
  { rules, known }: Roads,
): Between {
  const before = taken.findLast((t) => t.span.from <= span.from) ?? null;
  const after = taken.find((t) => t.span.from > span.from) ?? null;
  return {
    ...{ before, after },
    there: travelBetween(before?.spot ?? start, spot, rules, known),
    on: travelBetween(spot, after?.spot ?? start, rules, known),
  };
}

/**
 * Free time of a day in minutes: capacity less appointments with the travel to each and home from the last; overlaps count once, and
 * what lies outside capacity takes nothing from it. Unknown travel takes nothing. Source: domain-work, Rota: 8 h − 3 h − 1 h = 4 h.
 */
export function freeMinutes(day: PersonDay, roads: Roads = PLAIN_ROADS): number {
  const busy = day.taken.flatMap(({ span, spot }, i): InstantSpan[] => {
    const there = travelBetween(day.taken[i - 1]?.spot ?? day.start, spot, roads.rules, roads.known)?.minutes ?? 0;
    const isLast = i === day.taken.length - 1;
    const home = isLast ? (travelBetween(spot, day.start, roads.rules, roads.known)?.minutes ?? 0) : 0;
    return [{ from: minutesLater(span.from, -there), to: minutesLater(span.to, home) }];
  });
  return minutesIn(without(capacityOf(day), merged(busy)));
}

/** Whether some open stretch between two instants is long enough. */
const isRoom = (spans: readonly InstantSpan[], from: Instant, to: Instant, minutes: number): boolean =>
  minutes === 0 || spans.some((s) => Math.min(s.to, to) - Math.max(s.from, from) >= minutes * MINUTE);

/** Minutes past closing at which a person is back; 0 where they are back in time. A day that is not open closes at its beginning. */
export function minutesPastClosing(open: readonly InstantSpan[], backAt: Instant): number {
  const closing = open.at(-1)?.to;
  return closing === undefined ? 0 : Math.max(0, Math.ceil((backAt - closing) / MINUTE));
}

/** Skills of the work that a person does not hold on the date of their day. */
export function skillsAgainst({ skills, date }: PersonDay, work: Work): Against[] {
  return work.skills.flatMap(({ skillId, name }): Against[] => {
    const held = skills.filter((s) => s.skillId === skillId);
    if (held.some(({ until }) => until === null || until >= date)) return [];
    const lapsed = held
      .map((s) => s.until as LocalDate)
      .sort()
      .at(-1);
    const text = lapsed ? `${name} lapsed after ${sayDate(lapsed)}` : `${name} is not theirs`;
    return [{ what: 'skill', binds: true, text }];
  });
}

/** What has begun needs no way there any more; what is to come is not reached faster than one drives from now on. */
function leavingAgainst({ leavesFrom }: PersonDay, span: InstantSpan, { before, there }: Between): Against[] {
  if (leavesFrom === undefined || (before && before.span.to > leavesFrom)) return [];
  if (span.from < leavesFrom) return [{ what: 'travel', binds: false, text: 'it begins before now' }];
  const left = Math.floor((span.from - leavesFrom) / MINUTE);
  if (!there || there.minutes <= left) return [];
  return [{ what: 'travel', binds: true, text: `${there.minutes} min to get there, ${left} min from now` }];
}

/** Travel there and on, as far as the clock goes; whether it fits into open time is another question. */
function travelAgainst(day: PersonDay, span: InstantSpan, between: Between): Against[] {
  const { before, after, there, on } = between;
  const found: Against[] = [];
  const against = (text: string) => found.push({ what: 'travel', binds: true, text });
  // Nothing is planned over it by itself; somebody who knows the way may.
  if (there === null || on === null)
    found.push({ what: 'travel', binds: false, text: 'the travel is unknown: a place has no position' });
  if (there && before && before.span.to <= span.from && minutesLater(before.span.to, there.minutes) > span.from)
    against(
      `${there.minutes} min to get there, ${minutesIn([{ from: before.span.to, to: span.from }])} min since the one before`,
    );
  if (on && after && span.to <= after.span.from && minutesLater(span.to, on.minutes) > after.span.from)
    against(`${on.minutes} min on to the next, ${minutesIn([{ from: span.to, to: after.span.from }])} min until it`);
  return [...found, ...leavingAgainst(day, span, between)];
}

/** Work and travel lie in open time, over no break, and the last way home ends before closing. */
function openAgainst(day: PersonDay, span: InstantSpan, { before, after, there, on }: Between): Against[] {
  const capacity = capacityOf(day);
  const says = (text: string): Against[] => [{ what: 'open time', binds: false, text }];
  if (capacity.length === 0) return says('the day is not open for them');
  if (!liesIn(span, capacity)) return says('it does not lie inside their open time');
  const leaves = instant(Math.max(before?.span.to ?? day.open[0]?.from ?? span.from, day.leavesFrom ?? 0));
  if (there && span.from >= leaves && !isRoom(capacity, leaves, span.from, there.minutes))
    return says('the way there is not inside their open time');
  if (on === null) return [];
  const nextAt = after?.span.from ?? day.open.at(-1)?.to ?? span.to;
  if (isRoom(capacity, span.to, nextAt, on.minutes)) return [];
  const late = after ? 0 : minutesPastClosing(day.open, minutesLater(span.to, on.minutes));
  return says(late > 0 ? `back ${late} min past closing` : 'the way on is not inside their open time');
}

/**
 * Everything that speaks against an appointment of a person at a span: none, it can go. Skills hold through their last date; touching
 * is no overlap; work begins inside its window, ends included, and lies whole in the hours of its site. Source: domain-work, Rota, Can
 * go, and Settled questions.
 */
export function reasonsAgainst(day: PersonDay, work: Work, span: InstantSpan, roads: Roads = PLAIN_ROADS): Against[] {
  const between = betweenOf(day, work.spot, span, roads);
  const binding = (what: Against['what'], text: string): Against => ({ what, binds: true, text });
  const overlaps = day.taken.filter((t) => meets(t.span, span));
  return [
    ...skillsAgainst(day, work),
    ...(work.blocked.has(day.personId) ? [binding('blocked', 'the customer does not want them')] : []),
    ...day.absences.filter((a) => meets(a, span)).map((a) => binding('absence', a.why)),
    ...(overlaps.length > 0 ? [binding('overlap', 'they are elsewhere then')] : []),
    ...travelAgainst(day, span, between),
    ...(work.site !== null && !liesIn(span, work.site) ? [binding('site hours', 'the place is not open then')] : []),
    ...(work.lacks === null ? [] : [binding('part', `${work.lacks} is not to be had`)]),
    ...(work.window !== null && (span.from < work.window.from || span.from > work.window.to)
      ? [{ what: 'window', binds: false, text: 'it does not begin inside its window' } as const]
      : []),
    ...openAgainst(day, span, between),
  ];
}

/** The instants of a day, from one on, at which something begins to hold for some work; nothing changes for the better between them. */
export function beginningsOf(day: PersonDay, work: Work, from: Instant, roads: Roads): Instant[] {
  const capacity = capacityOf(day);
  const ways = [
    ...new Set(
      [day.start, ...day.taken.map((t) => t.spot)].map(
        (s) => travelBetween(s, work.spot, roads.rules, roads.known)?.minutes ?? null,
      ),
    ),
  ].flatMap((m) => m ?? []);
  const first = instant(Math.max(from, day.open[0]?.from ?? from));
  const last = day.open.at(-1)?.to ?? first;
  const begins = [
    // Of a day that opens later nothing before is worth looking at.
    first,
    ...capacity.map((s) => s.from),
    // Other days of the place begin nothing on this one.
    ...(work.site ?? []).flatMap((s) => (s.to > first && s.from < last ? [s.from] : [])),
    ...day.taken.map((t) => t.span.to),
  ];
  const starts = [
    ...begins,
    ...begins.flatMap((at) => ways.map((way) => minutesLater(at, way))),
    ...(work.window ? [work.window.from] : []),
  ];
  return [...new Set(starts.map(atStep))].filter((at) => at >= from).sort((a, b) => a - b);
}

export type Tried = { readonly span: InstantSpan; readonly against: readonly Against[] };

const binding = (against: readonly Against[]): number => against.filter((r) => r.binds).length;

/**
 * The span of a day, from an instant on and beginning at a whole step, against which least speaks: first what binds, then what asks for
 * a yes; of alike the earliest. Where nothing does it is the first at which the work can be done.
 */
export function bestTry(day: PersonDay, work: Work, from: Instant, roads: Roads = PLAIN_ROADS): Tried {
  let best: Tried | null = null;
  for (const at of beginningsOf(day, work, from, roads)) {
    const span = { from: at, to: minutesLater(at, work.minutes) };
    const against = reasonsAgainst(day, work, span, roads);
    if (against.length === 0) return { span, against };
    const apart = best === null ? -1 : binding(against) - binding(best.against) || against.length - best.against.length;
    if (apart < 0) best = { span, against };
  }
  // The instant itself, or the day's opening, is always among them.
  return best as Tried;
}

/** The earliest span from an instant on at which nothing speaks against the work; null: none on this day. */
export function firstThatGoes(
  day: PersonDay,
  work: Work,
  from: Instant,
  roads: Roads = PLAIN_ROADS,
): InstantSpan | null {
  const { span, against } = bestTry(day, work, from, roads);
  return against.length === 0 ? span : null;
}
