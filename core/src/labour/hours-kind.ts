// Hours kinds: what a stretch of somebody's time is costed and sold as, found from the calendar of the place by its local minute.
import { closedDaysOf, ELAPSED_TIME, workingTimeOf, type Calendar, type WorkingTime } from '../calendars/index.ts';
import {
  fromDayNumber,
  instant,
  instantOfWall,
  laterInstantOfWall,
  localDateAt,
  offsetChanges,
  startOfDay,
  toDayNumber,
  toWallTime,
  type Instant,
  type InstantSpan,
  type LocalDate,
  weekdayOf,
  type Zone,
} from '../time/index.ts';

export const HOURS_KINDS = ['normal', 'outside', 'night', 'holiday'] as const;
/** `holiday` is a Sunday or a public holiday at the place. */
export type HoursKind = (typeof HOURS_KINDS)[number];

/** From and to in minutes after midnight at the place; `to` ≤ `from` passes midnight. Null: no hour counts as night. */
export type NightSpan = { readonly from: number; readonly to: number } | null;

/** What tells hours kinds at a place. */
export type PlaceHours = {
  readonly zone: Zone;
  readonly workingTime: WorkingTime;
  readonly isHoliday: (date: LocalDate) => boolean;
};

/**
 * The hours of a place in its zone by its calendar, whose closed days are public holidays unless said otherwise. Without a calendar
 * every hour of a weekday counts as open. `workingTime` spares compiling the calendar where that was done.
 */
export function placeHoursOf(
  calendar: Calendar | null,
  zone: Zone,
  workingTime: WorkingTime = calendar === null ? ELAPSED_TIME : workingTimeOf(calendar),
): PlaceHours {
  const holidays = new Set(
    (calendar ? closedDaysOf(calendar) : []).filter((d) => d.holiday !== false).map((d) => d.date),
  );
  return {
    zone,
    workingTime,
    isHoliday: (date) => holidays.has(date),
  };
}

const SUNDAY = 7;

const isNight = (night: NightSpan, minutes: number): boolean =>
  night !== null &&
  (night.from < night.to ? minutes >= night.from && minutes < night.to : minutes >= night.from || minutes < night.to);

/**
 * The hours kind of an instant at a place. Sunday or holiday comes before night, night before open or not; an extra opening on a
 * holiday stays holiday, a closed day that is no holiday is outside.
 * Source: settled questions, Time.
 */
export function hoursKindAt({ zone, workingTime, isHoliday }: PlaceHours, night: NightSpan, at: Instant): HoursKind {
  const { date, minutes } = toWallTime(zone, at);
  if (isHoliday(date) || weekdayOf(date) === SUNDAY) return 'holiday';
  if (isNight(night, minutes)) return 'night';
  return workingTime.isOpen(at) ? 'normal' : 'outside';
}

/** The hours kind of a plain sum on a day, for which no times are known: normal, unless the day is a Sunday or holiday. */
export const hoursKindOfDay = ({ isHoliday }: PlaceHours, date: LocalDate): HoursKind =>
  isHoliday(date) || weekdayOf(date) === SUNDAY ? 'holiday' : 'normal';

/** A piece of an entry: of one hours kind, on one day of the person. */
export type Piece = InstantSpan & { readonly day: LocalDate; readonly hours: HoursKind };

/** Every instant inside a span at which the hours kind or the person's day may change. */
function edgesOf(span: InstantSpan, place: PlaceHours, night: NightSpan, personZone: Zone): number[] {
  const edges: number[] = [];
  const first = toDayNumber(localDateAt(place.zone, span.from)) - 1;
  const last = toDayNumber(localDateAt(place.zone, span.to)) + 1;
  for (let day = first; day <= last; day += 1) {
    edges.push(startOfDay(place.zone, fromDayNumber(day)), startOfDay(personZone, fromDayNumber(day)));
    // A repeated hour shows these minutes twice.
    if (night)
      for (const minutes of [night.from, night.to])
        edges.push(instantOfWall(place.zone, day, minutes), laterInstantOfWall(place.zone, day, minutes));
  }
  const [from, to] = [span.from, span.to].map((at) => Number(localDateAt(place.zone, at).slice(0, 4)));
  edges.push(...offsetChanges(place.zone, from as number, to as number).map((c) => c.at));
  for (const open of place.workingTime.openSegments(span.from, span.to)) edges.push(open.from, open.to);
  return edges.filter((at) => at > span.from && at < span.to);
}

/**
 * An entry's span in pieces of one hours kind each, split at the person's midnight too, in order of time; their lengths add up to
 * the span. Half-open, as entries are. Source: domain, Time and rates; settled questions, Time.
 */
export function piecesOf(span: InstantSpan, place: PlaceHours, night: NightSpan, personZone: Zone): Piece[] {
  const edges = [...new Set([span.from, ...edgesOf(span, place, night, personZone), span.to])].sort((a, b) => a - b);
  const pieces: Piece[] = [];
  for (let i = 0; i + 1 < edges.length; i += 1) {
    const [from, to] = [instant(edges[i] as number), instant(edges[i + 1] as number)];
    const piece: Piece = { from, to, day: localDateAt(personZone, from), hours: hoursKindAt(place, night, from) };
    const before = pieces.at(-1);
    if (before && before.hours === piece.hours && before.day === piece.day)
      pieces[pieces.length - 1] = { ...before, to };
    else pieces.push(piece);
  }
  return pieces;
}
