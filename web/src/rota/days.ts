// People's days as the rules know them, out of what the rota answered.
import type { OrderWorkOut, Rota as Answered, RotaAppointment, RotaPerson } from '#api/rota.ts';
import type { PersonId, SkillId } from '#core/ids.ts';
import {
  againstCrew,
  capacityOf,
  firstThatGoes,
  freeMinutes,
  inSteps,
  travelBetween,
  type AgainstPerson,
  type PersonDay,
  type Roads,
  type Taken,
  type Travel,
  type Work,
} from '#core/rota/index.ts';
import {
  instant,
  localDateAt,
  MINUTE,
  minutesIn,
  type Instant,
  type InstantSpan,
  type LocalDate,
  type Zone,
} from '#core/time/index.ts';

/** What the rota answered, with how travel is reckoned here. */
export type Rota = Answered & { readonly roads: Roads };

const zoneOf = (p: Pick<RotaPerson, 'zone'>): Zone => p.zone as Zone;
/** Found once for each instant of a zone: a week of a whole team asks for the same thousands of times. */
const datesOf = new Map<string, Map<Instant, LocalDate>>();
export function dateOf(p: Pick<RotaPerson, 'zone'>, at: Instant): LocalDate {
  let known = datesOf.get(p.zone);
  if (!known || known.size > MOST_DATES) datesOf.set(p.zone, (known = new Map<Instant, LocalDate>()));
  let date = known.get(at);
  if (date === undefined) known.set(at, (date = localDateAt(zoneOf(p), at)));
  return date;
}
const MOST_DATES = 20_000;

/** Who is taken on which date, found once for each answer: a full week is asked for it thousands of times. */
const takenIn = new WeakMap<RotaAppointment[], ReadonlyMap<string, Taken[]>>();
function takenOf({ people, appointments }: Rota): ReadonlyMap<string, Taken[]> {
  const known = takenIn.get(appointments);
  if (known) return known;
  const byId = new Map(people.map((p) => [p.id, p]));
  const found = new Map<string, Taken[]>();
  for (const a of appointments) {
    const taken: Taken = { id: a.id, span: { from: a.from, to: a.to }, spot: a.spot };
    for (const id of a.personIds) {
      const p = byId.get(id);
      if (!p) continue;
      const key = `${id} ${dateOf(p, a.from)}`;
      const held = found.get(key);
      if (held) held.push(taken);
      else found.set(key, [taken]);
    }
  }
  takenIn.set(appointments, found);
  return found;
}

/** A person's day on a date, one appointment looked at as if it were not there. */
export function dayOf(rota: Rota, p: RotaPerson, date: LocalDate, without: number | null = null): PersonDay {
  const day = p.days.find((d) => d.date === date);
  const all = takenOf(rota).get(`${p.id} ${date}`) ?? [];
  const taken = without === null ? all : all.filter((t) => t.id !== without);
  return {
    ...{ personId: p.id as PersonId, date, start: p.start, taken, leavesFrom: rota.now },
    ...{ open: day?.open ?? [], absences: day?.absences ?? [] },
    skills: p.skills.map((s) => ({ skillId: s.skillId as SkillId, until: s.until })),
  };
}

export const workFrom = ({ work }: Pick<OrderWorkOut, 'work'>, minutes: number): Work => ({
  ...{ spot: work.spot, minutes, window: work.window, site: work.site, lacks: work.lacks },
  skills: work.skills.map((s) => ({ skillId: s.skillId as SkillId, name: s.name })),
  blocked: new Set(work.blocked as PersonId[]),
});

/** Minutes free of those a day has. */
export const freeOf = (day: PersonDay, roads: Roads): { free: number; all: number } => ({
  free: Math.round(freeMinutes(day, roads)),
  all: Math.round(minutesIn(capacityOf(day))),
});

export type Leg = { readonly to: Taken; readonly travel: Travel | null };
/** The way to each appointment of a day. */
export const legsOf = (day: PersonDay, { rules, known }: Roads): Leg[] =>
  day.taken.map((to, i) => ({
    to,
    travel: travelBetween(day.taken[i - 1]?.spot ?? day.start, to.spot, rules, known),
  }));

/** What is carried: an order that nobody is planned for, or an appointment. */
export type Held =
  | {
      readonly what: 'loose';
      readonly orderId: number;
      readonly title: string;
      readonly minutes: number;
      readonly crew: number;
    }
  | { readonly what: 'appointment'; readonly of: RotaAppointment; readonly by: number };

export const minutesOf = (held: Held): number =>
  held.what === 'loose' ? inSteps(held.minutes) : (held.of.to - held.of.from) / MINUTE;
export const orderOf = (held: Held): number =>
  held.what === 'loose' ? held.orderId : (held.of.orders[0]?.orderId ?? 0);
export const titleOf = (held: Held): string =>
  held.what === 'loose' ? held.title : held.of.orders.map((o) => o.title).join(', ');

/** Where what is carried would lie. */
export type Ghost = { readonly personId: number; readonly from: Instant };

export const spanOf = (held: Held, ghost: Ghost): InstantSpan => ({
  from: ghost.from,
  to: instant(ghost.from + minutesOf(held) * MINUTE),
});

/** Who would go: on another's row they take the place of whose row it was carried from. */
export function goersOf(held: Held, ghost: Ghost): number[] {
  if (held.what === 'loose') return [ghost.personId];
  return [...new Set(held.of.personIds.map((id) => (id === held.by ? ghost.personId : id)))];
}

export type Looked = {
  readonly against: readonly AgainstPerson[];
  /** Promises that would be missed, in words. */
  readonly late: readonly string[];
  /** Who was told something else. */
  readonly told: readonly string[];
};

const SAID = {
  response: 'response',
  arrival: 'arrival',
  workaround: 'workaround',
  restoration: 'back in use',
} as const;

/** What of an order's promises a span would miss, and by how many minutes. */
export const missedBy = (
  clocks: RotaAppointment['orders'][number]['clocks'],
  span: InstantSpan,
): { target: string; minutes: number }[] =>
  clocks.flatMap(({ target, dueAt, stopsAt }) => {
    const late = Math.ceil(((stopsAt === 'arrival' ? span.from : span.to) - dueAt) / MINUTE);
    return late > 0 ? [{ target: SAID[target], minutes: late }] : [];
  });

/** What a place in the rota would mean, before anything is let go there: by the same rule as the server asks when it is. */
export function lookAt(rota: Rota, held: Held, work: OrderWorkOut, ghost: Ghost): Looked {
  const span = spanOf(held, ghost);
  const people = goersOf(held, ghost).flatMap((id) => rota.people.find((p) => p.id === id) ?? []);
  const without = held.what === 'appointment' ? held.of.id : null;
  const goers = people.map((p) => ({ name: p.name, day: dayOf(rota, p, dateOf(p, span.from), without) }));
  const orders = held.what === 'loose' ? [work] : held.of.orders;
  const told = held.what === 'appointment' ? held.of.told : null;
  return {
    against: againstCrew(goers, workFrom(work, minutesOf(held)), span, rota.roads),
    late: orders.flatMap((o) =>
      missedBy(o.clocks, span).map(({ target, minutes }) => `${target} missed by ${minutes} min: ${o.title}`),
    ),
    told:
      told && (span.from < told.from || span.from > told.to)
        ? [...new Set(orders.map((o) => ('customer' in o ? o.customer : '')))]
        : [],
  };
}

export type Stretch = { readonly from: Instant; readonly to: Instant; readonly text: string; readonly binds: boolean };

/** Where on a person's shown day what is carried cannot begin, and why: one stretch for each reason, one after the other. */
export function stretchesOf(
  day: PersonDay,
  name: string,
  work: Work,
  shown: InstantSpan,
  stepMinutes: number,
  roads: Roads,
): Stretch[] {
  const step = stepMinutes * MINUTE;
  const found: { from: Instant; to: Instant; text: string; binds: boolean }[] = [];
  for (let at = Math.ceil(shown.from / step) * step; at < shown.to; at += step) {
    const span = { from: instant(at), to: instant(at + work.minutes * MINUTE) };
    const against = againstCrew([{ name, day }], work, span, roads);
    const [first] = [...against].sort((a, b) => Number(b.binds) - Number(a.binds));
    const last = found.at(-1);
    if (!first) continue;
    if (last && last.to === at && last.binds === first.binds && last.text === first.text) last.to = instant(at + step);
    else if (last && last.to === at && last.binds === first.binds && sameKind(last.text, first.text))
      last.to = instant(at + step);
    else found.push({ from: instant(at), to: instant(at + step), text: first.text, binds: first.binds });
  }
  return found;
}

/** Minutes in a reason change from step to step; it stays the same reason. */
const sameKind = (a: string, b: string): boolean => a.replace(/\d+/g, '') === b.replace(/\d+/g, '');

/** The next time at which what is carried goes with a person on a date. */
export function nextThatGoes(rota: Rota, p: RotaPerson, held: Held, work: OrderWorkOut, from: Instant): Instant | null {
  const date = dateOf(p, from);
  const without = held.what === 'appointment' ? held.of.id : null;
  return firstThatGoes(dayOf(rota, p, date, without), workFrom(work, minutesOf(held)), from, rota.roads)?.from ?? null;
}
