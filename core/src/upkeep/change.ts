// Changing one visit, or a visit and all later ones: what becomes of the schedule’s turns and deviations, or why it may not be.
import type { WorkingDays } from '../calendars/index.ts';
import { decided, refusal, refused, type Decided, type Refusal } from '../refusal.ts';
import {
  addDays,
  fromDayNumber,
  sayDate,
  toDayNumber,
  weekdayOf,
  type LocalDate,
  type Weekday,
} from '../time/index.ts';
import type { GridCadence } from './cadence.ts';
import {
  expandCourse,
  lapsedDeviations,
  nameOf,
  type Deviation,
  type Original,
  type Turn,
  type VisitName,
  type WorkChange,
} from './course.ts';
import { visitDays, type DateTerms } from './dates.ts';

/** A schedule’s series with what was changed in it so far. */
export type Series = DateTerms & {
  readonly cadence: GridCadence;
  readonly turns: readonly Turn[];
  readonly deviations: readonly Deviation[];
  readonly workingDays: WorkingDays;
  /** Identifying dates of visits that are raised, declined or absorbed: they are changed no more. */
  readonly settled: ReadonlySet<LocalDate>;
};

export type VisitChange =
  | { readonly kind: 'move'; readonly nominal: LocalDate; readonly to: LocalDate; readonly agreed: boolean }
  | { readonly kind: 'skip'; readonly nominal: LocalDate; readonly reason: string }
  | { readonly kind: 'add'; readonly on: LocalDate }
  | { readonly kind: 'work'; readonly nominal: LocalDate; readonly change: WorkChange }
  | { readonly kind: 'revert'; readonly nominal: LocalDate }
  | { readonly kind: 'from here on'; readonly turn: FromHereOn };

/** From this visit on. A weekday is given as the new one: the old one is that of the visit. */
export type FromHereOn = { readonly from: LocalDate } & (
  | { readonly kind: 'rule'; readonly rule: (Turn & { kind: 'rule' })['rule'] }
  | { readonly kind: 'weekday'; readonly now: Weekday }
  | ({ readonly kind: 'work' } & WorkChange)
  | { readonly kind: 'ends'; readonly reason: string }
);

export type Changed = {
  readonly turns: readonly Turn[];
  readonly deviations: readonly Deviation[];
  /** Deviations that the new rule gives no visit for any more. */
  readonly lapsed: readonly Deviation[];
};

/** Two visits on one date are looked for this far ahead. */
const LOOKED_AHEAD_DAYS = 1100;

const plain = (name: VisitName): Deviation => ({ ...name, added: false, movedTo: null, agreed: false, skipped: null });

const isPlain = ({ added, movedTo, skipped, minutes, crew, technicianId }: Deviation): boolean =>
  !added &&
  movedTo === null &&
  skipped === null &&
  minutes === undefined &&
  crew === undefined &&
  technicianId === undefined;

function withDeviation(deviations: readonly Deviation[], next: Deviation): Deviation[] {
  const others = deviations.filter((d) => nameOf(d) !== nameOf(next));
  return isPlain(next) ? others : [...others, next];
}

/** The day a visit is planned for, deviation and convention included; null where it is left out. */
function plannedDay(series: Series, original: Original, deviation: Deviation | undefined): LocalDate | null {
  if (deviation && deviation.skipped !== null) return null;
  if (deviation?.movedTo) return deviation.movedTo;
  if (deviation?.added) return fromDayNumber(original.nominal);
  return visitDays(series, series.workingDays, original.day, null)?.planned ?? null;
}

/** Planned days of a series around a stretch, by identifying date; additions among them. */
function plannedDays(series: Series, from: LocalDate, to: LocalDate): Map<LocalDate, LocalDate> {
  const byDate = new Map(series.deviations.map((d) => [d.nominal, d]));
  const originals = expandCourse(series.cadence, series.turns, toDayNumber(from), toDayNumber(to) + 1);
  const known = new Set(originals.map((o) => o.nominal));
  const added = series.deviations
    .filter((d) => d.added && !known.has(toDayNumber(d.nominal)))
    .map((d): Original => ({ nominal: toDayNumber(d.nominal), day: toDayNumber(d.nominal), phase: null }));
  const planned = new Map<LocalDate, LocalDate>();
  for (const original of [...originals, ...added]) {
    const nominal = fromDayNumber(original.nominal);
    const day = plannedDay(series, original, byDate.get(nominal));
    if (day !== null) planned.set(nominal, day);
  }
  return planned;
}

/** The first day on which two visits would stand. */
function twoOnOneDay(series: Series, from: LocalDate): LocalDate | null {
  const seen = new Set<LocalDate>();
  for (const day of plannedDays(series, addDays(from, -400), addDays(from, LOOKED_AHEAD_DAYS)).values()) {
    if (seen.has(day) && day >= from) return day;
    seen.add(day);
  }
  return null;
}

const notInSeries = (nominal: LocalDate): Refusal =>
  refusal('not-found', `The schedule has no visit of ${sayDate(nominal)}; look at its visits again.`, 'nominal');

function openVisit(series: Series, nominal: LocalDate): Refusal[] {
  if (series.settled.has(nominal))
    return [
      refusal(
        'conflict',
        `The visit of ${sayDate(nominal)} is raised or let go already; change its order instead.`,
        'nominal',
      ),
    ];
  const day = toDayNumber(nominal);
  const isAdded = series.deviations.some((d) => d.added && d.nominal === nominal);
  return isAdded || expandCourse(series.cadence, series.turns, day, day + 1).length > 0 ? [] : [notInSeries(nominal)];
}

const taken = (day: LocalDate, field: string): Refusal =>
  refusal('taken', `Another visit of this schedule is planned for ${sayDate(day)}; choose another day.`, field);

function turnOf(series: Series, turn: FromHereOn): Turn {
  if (turn.kind !== 'weekday') return turn;
  const day = toDayNumber(turn.from);
  const [original] = expandCourse(series.cadence, series.turns, day, day + 1);
  const was = original ? weekdayOf(fromDayNumber(original.day)) : weekdayOf(turn.from);
  return { kind: 'weekday', from: turn.from, was, now: turn.now };
}

function turned(series: Series, asked: FromHereOn): Decided<Changed> {
  const turn = turnOf(series, asked);
  // A rule or an end replaces what was changed from this visit on before; the rest stays.
  const replaces = turn.kind === 'rule' || turn.kind === 'ends';
  const before = series.turns.filter((t) => !replaces || t.from < turn.from);
  const turns = [...before, turn];
  const kept = turn.kind === 'ends' ? series.deviations.filter((d) => d.nominal < turn.from) : series.deviations;
  const lapsed = [
    ...series.deviations.filter((d) => !kept.includes(d)),
    ...lapsedDeviations(series.cadence, turns, kept).filter((d) => d.nominal >= turn.from),
  ];
  const deviations = kept.filter((d) => !lapsed.includes(d));
  const twice = twoOnOneDay({ ...series, turns, deviations }, turn.from);
  return twice === null ? decided({ turns, deviations, lapsed }) : refused(taken(twice, 'turn'));
}

function moved(series: Series, act: VisitChange & { kind: 'move' }, own: Deviation): Decided<Changed> {
  const others = plannedDays(series, addDays(act.to, -400), addDays(act.to, 400));
  others.delete(act.nominal);
  if ([...others.values()].includes(act.to)) return refused(taken(act.to, 'to'));
  const next = { ...own, movedTo: act.to, agreed: act.agreed, skipped: null };
  return decided({ turns: series.turns, deviations: withDeviation(series.deviations, next), lapsed: [] });
}

function added(series: Series, on: LocalDate, today: LocalDate): Decided<Changed> {
  if (on < today) return refused(refusal('invalid', `Choose a day from today, ${sayDate(today)}, on.`, 'on'));
  if (series.settled.has(on)) return refused(taken(on, 'on'));
  const skipped = series.deviations.find((d) => d.nominal === on && d.skipped !== null);
  if (!skipped && [...plannedDays(series, addDays(on, -400), addDays(on, 400)).values()].includes(on))
    return refused(taken(on, 'on'));
  const next = { ...plain({ nominal: on, part: 1 }), added: true };
  return decided({ turns: series.turns, deviations: withDeviation(series.deviations, next), lapsed: [] });
}

/**
 * Applies a change to a series. Refused: visits the series does not have, visits that are raised or let go already, a day in the past,
 * a day on which another visit of the schedule stands.
 * Source: domain, Recurrence; settled questions, One visit or from here on (a move changes the planned date; a weekday change keeps
 * the weeks; existence and identity stay with the rule’s date). Days are local dates of the place.
 */
export function changeSeries(series: Series, act: VisitChange, today: LocalDate): Decided<Changed> {
  if (act.kind === 'add') return added(series, act.on, today);
  const nominal = act.kind === 'from here on' ? act.turn.from : act.nominal;
  const wrong = openVisit(series, nominal);
  if (wrong.length > 0) return refused(...wrong);
  const name = { nominal, part: 1 };
  const own = series.deviations.find((d) => nameOf(d) === nameOf(name)) ?? plain(name);
  const put = (next: Deviation): Decided<Changed> =>
    decided({ turns: series.turns, deviations: withDeviation(series.deviations, next), lapsed: [] });
  switch (act.kind) {
    case 'move':
      return act.to < today
        ? refused(refusal('invalid', `Choose a day from today, ${sayDate(today)}, on.`, 'to'))
        : moved(series, act, own);
    case 'skip':
      return act.reason.trim() === ''
        ? refused(refusal('missing', 'Say why the visit is left out.', 'reason'))
        : put({ ...own, skipped: act.reason.trim() });
    case 'work':
      return put({ ...own, ...act.change });
    case 'revert':
      return decided({
        turns: series.turns,
        deviations: series.deviations.filter((d) => nameOf(d) !== nameOf(name)),
        lapsed: [],
      });
    case 'from here on':
      return turned(series, act.turn);
  }
}
