// Times somebody came to an order: its appointments that were kept. Billed by appointment, each takes the order's place: what was done
// then is charged by itself.
import type { Instant, LocalDate } from '../time/index.ts';
import { comesTo, type Charge, type ChargedLine, type Done } from './comes-to.ts';
import type { RateCard } from '../labour/index.ts';

/** When it began, and its day at the place. */
export type Coming = { readonly at: Instant; readonly on: LocalDate };

/** When something was done: its day, and until when, where that is known. */
export type DoneWhen = { readonly on: LocalDate; readonly until: Instant | null };

/**
 * Which of some comings, in their order, something belongs to: that of its day; of several on one day the last that had begun when it
 * ended, or the first where that is not known; on other days the last one before, else the first. Gives its index, 0 where nobody came.
 */
export function comingOf(comings: readonly Coming[], { on, until }: DoneWhen): number {
  const that = comings.flatMap((c, i) => (c.on === on ? [i] : []));
  const [first] = that;
  if (first === undefined)
    return Math.max(
      0,
      comings.findLastIndex((c) => c.on < on),
    );
  return that.findLast((i) => until !== null && (comings[i] as Coming).at <= until) ?? first;
}

export type Planned = { readonly from: Instant; readonly to: Instant; readonly on: LocalDate };

/** Appointments at the same time are one: two who go separately to the same work came once. */
function together(planned: readonly Planned[]): Coming[] {
  const comings: (Coming & { to: Instant })[] = [];
  for (const { from, to, on } of planned.toSorted((a, b) => a.from - b.from)) {
    const last = comings.at(-1);
    if (last && from < last.to) last.to = to > last.to ? to : last.to;
    else comings.push({ at: from, on, to });
  }
  return comings.map(({ at, on }) => ({ at, on }));
}

/**
 * The times somebody came, in their order: appointments that somebody arrived at or did something at, and arrivals on days without one.
 * An appointment nobody kept is none. What was done belongs to the same of them as it would if those had stayed.
 */
export function comingsOf(
  planned: readonly Planned[],
  arrivals: readonly Coming[],
  done: readonly DoneWhen[],
): Coming[] {
  const appointments = together(planned);
  const days = new Set(appointments.map((c) => c.on));
  const all = [...appointments, ...arrivals.filter((a) => !days.has(a.on))].toSorted((a, b) => a.at - b.at);
  const kept = new Set(
    [...arrivals.map(({ at, on }) => ({ on, until: at })), ...done].map((when) => comingOf(all, when)),
  );
  return all.filter((_, i) => kept.has(i));
}

/** What was done, each with the coming it belongs to. */
type ByComing<T> = readonly (T & { readonly coming: number })[];
export type DoneByComing = Pick<Done, 'comings' | 'visits'> & {
  readonly [K in 'worked' | 'parts' | 'others' | 'driven']: ByComing<Done[K][number]>;
};

/**
 * What an order billed by appointment comes to: the charges of each coming as if it were an order, with its own call-out and its own
 * minutes rounded up; a visit with a price of its own goes with the last. Source: domain-work, Settle (Grouping); settled questions,
 * Time (“billed by appointment, the appointment takes the order's place”).
 */
export function comesToByComing(done: DoneByComing, card: RateCard | null, lines: readonly ChargedLine[]): Charge[] {
  const times = Math.max(1, done.comings);
  return Array.from({ length: times }, (_, coming) => {
    const isOf = (of: { readonly coming: number }): boolean => of.coming === coming;
    const own: Done = {
      worked: done.worked.filter(isOf),
      parts: done.parts.filter(isOf),
      others: done.others.filter(isOf),
      driven: done.driven.filter(isOf),
      visits: coming === times - 1 ? done.visits : [],
      comings: Math.min(1, done.comings),
    };
    return comesTo(own, card, lines).map((charge) => ({ ...charge, coming }));
  }).flat();
}
