// The time axis of the rota: hours of one day, or of several days one after the other with the nights left out.
import {
  addDays,
  HOUR,
  instant,
  localDateAt,
  MINUTE,
  SHORT_DAYS,
  SHORT_MONTHS,
  startOfDay,
  weekdayOf,
  type Instant,
  type LocalDate,
  type Zone,
} from '#core/time/index.ts';
import { sayTime } from '../parts/words.ts';

export const VIEWS = ['hours', 'day', 'week', 'month'] as const;
export type View = (typeof VIEWS)[number];
export const DAYS_SHOWN: Readonly<Record<View, number>> = { hours: 1, day: 1, week: 7, month: 35 };

/** A stretch of time drawn from one place of the axis to another. */
type Segment = {
  readonly date: LocalDate;
  readonly from: Instant;
  readonly to: Instant;
  readonly a: number;
  readonly b: number;
};
type Tick = { readonly at: number; readonly label: string; readonly isDay: boolean };

export type Axis = {
  readonly segments: readonly Segment[];
  readonly length: number;
  readonly ticks: readonly Tick[];
  /** Pixels of a minute. */
  readonly scale: number;
  /** Where an instant stands; in a night left out, at its edge. */
  place(at: Instant): number;
  /** The instant at a place, in steps. */
  at(place: number, stepMinutes: number): Instant;
  readonly from: Instant;
  readonly to: Instant;
};

const FIRST_HOUR = 7;
const LAST_HOUR = 19;
const HOURS_NEAR = 8;

type Of = {
  readonly view: View;
  readonly date: LocalDate;
  readonly zone: Zone;
  readonly now: Instant;
  readonly length: number;
  /** What must be seen of it: earlier and later hours are shown where something is there. */
  readonly spans: readonly { readonly from: Instant; readonly to: Instant }[];
};

/** The hours of a day that are shown: the usual ones, and whatever reaches beyond them. */
function hoursOf(date: LocalDate, { zone, spans }: Of): { from: Instant; to: Instant } {
  const begins = startOfDay(zone, date);
  const [day, next] = [begins, startOfDay(zone, addDays(date, 1))];
  const own = spans.filter((s) => s.from < next && s.to > day);
  const first = Math.min(FIRST_HOUR * HOUR + begins, ...own.map((s) => Math.floor(s.from / HOUR) * HOUR));
  const last = Math.max(LAST_HOUR * HOUR + begins, ...own.map((s) => Math.ceil(s.to / HOUR) * HOUR));
  return { from: instant(Math.max(day, first)), to: instant(Math.min(next, last)) };
}

function near({ date, zone, now }: Of): { from: Instant; to: Instant } {
  const isToday = localDateAt(zone, now) === date;
  const from = isToday ? Math.floor((now - HOUR) / HOUR) * HOUR : startOfDay(zone, date) + 8 * HOUR;
  return { from: instant(from), to: instant(from + HOURS_NEAR * HOUR) };
}

function ticksOf(view: View, zone: Zone, segments: readonly Segment[], scale: number): Tick[] {
  const days = segments.map((s) => {
    const number = Number(s.date.slice(8));
    const name = SHORT_DAYS[weekdayOf(s.date) - 1] as string;
    // A month has no room for every day’s name: its weeks are named.
    const isNamed = view !== 'month' || weekdayOf(s.date) === 1;
    const month = view === 'month' ? ` ${SHORT_MONTHS[Number(s.date.slice(5, 7)) - 1]}` : '';
    return { at: s.a, label: isNamed ? `${name} ${number}${month}` : '', isDay: true };
  });
  if (view === 'month' || (view === 'week' && scale * 60 < 22)) return days;
  const hours = segments.flatMap((s) => {
    const every = scale * 60 >= 40 ? 1 : scale * 60 >= 22 ? 2 : 6;
    const found: Tick[] = [];
    for (let at = Math.ceil(s.from / HOUR) * HOUR; at <= s.to; at += HOUR) {
      const local = Number(sayTime(instant(at), zone).slice(0, 2));
      const isEdge = segments.length > 1 && (at <= s.from + HOUR || at >= s.to - HOUR);
      const isCut = at === s.from || at === s.to;
      if (local % every === 0 && !isEdge && !isCut)
        found.push({ at: s.a + (at - s.from) * (scale / MINUTE), label: sayTime(instant(at), zone), isDay: false });
    }
    return found;
  });
  return view === 'week' ? [...days, ...hours] : hours;
}

export function axisOf(of: Of): Axis {
  const { view, date, zone, length } = of;
  const spans =
    view === 'hours'
      ? [{ date, ...near(of) }]
      : Array.from({ length: DAYS_SHOWN[view] }, (_, i) => addDays(date, i)).map((d) => ({
          date: d,
          ...hoursOf(d, of),
        }));
  const total = spans.reduce((sum, s) => sum + (s.to - s.from), 0);
  const perMs = length / total;
  const segments: Segment[] = [];
  for (const span of spans) {
    const a = segments.at(-1)?.b ?? 0;
    segments.push({ ...span, a, b: a + (span.to - span.from) * perMs });
  }
  const [first, last] = [segments[0] as Segment, segments.at(-1) as Segment];
  const scale = perMs * MINUTE;
  return {
    ...{ segments, length, scale, from: first.from, to: last.to, ticks: ticksOf(view, zone, segments, scale) },
    place(at) {
      for (const s of segments) if (at < s.to) return s.a + Math.max(0, at - s.from) * perMs;
      return length;
    },
    at(place, stepMinutes) {
      const s = segments.find((x) => place < x.b) ?? last;
      const step = stepMinutes * MINUTE;
      return instant(Math.round((s.from + Math.max(0, place - s.a) / perMs) / step) * step);
    },
  };
}

/** Which date a view begins with: a week on its Monday, a month with the week of its first day. */
export function beginOf(view: View, date: LocalDate): LocalDate {
  if (view === 'hours' || view === 'day') return date;
  const first = view === 'month' ? (`${date.slice(0, 8)}01` as LocalDate) : date;
  return addDays(first, 1 - weekdayOf(first));
}

/** The date a step later or earlier. */
export function stepOf(view: View, date: LocalDate, steps: 1 | -1): LocalDate {
  if (view === 'hours' || view === 'day') return addDays(date, steps);
  if (view === 'week') return addDays(date, steps * 7);
  const [year, month] = [Number(date.slice(0, 4)), Number(date.slice(5, 7)) - 1 + steps];
  const moved = new Date(Date.UTC(year, month, 1));
  return moved.toISOString().slice(0, 10) as LocalDate;
}
