// Time entries: minutes of one person for an order, from one time to another or as a plain sum, as they are typed and checked.
import { decided, refusal, refused, type Decided, type Refusal } from '../refusal.ts';
import {
  addDays,
  laterInstantOfWall,
  localDateAt,
  MINUTE,
  sayDate,
  sayLength,
  startOfDay,
  toDayNumber,
  type Instant,
  type InstantSpan,
  type LocalDate,
  type Zone,
} from '../time/index.ts';
import type { HoursKind } from './hours-kind.ts';

export const ENTRY_KINDS = ['work', 'travel', 'waiting'] as const;
export type EntryKind = (typeof ENTRY_KINDS)[number];

/** As typed: times of the person's day in minutes after midnight, or a plain sum. */
export type TypedEntry = {
  readonly day: LocalDate;
  readonly kind: EntryKind;
  readonly from: number | null;
  /** Before `from`: on the next day. */
  readonly to: number | null;
  readonly minutes: number | null;
  /** Of a plain sum: what it is, where it is not what the day says. */
  readonly hours: HoursKind | null;
};

/** What was lived: a span of time, or so many minutes of a day. */
export type Entry = {
  readonly day: LocalDate;
  readonly kind: EntryKind;
  readonly span: InstantSpan | null;
  readonly minutes: number;
  readonly hours: HoursKind | null;
};

const MINUTES_OF_DAY = 1440;
/** 1,440, or an hour less or more where the clocks change. */
const minutesOfDay = (day: LocalDate, zone: Zone): number =>
  (startOfDay(zone, addDays(day, 1)) - startOfDay(zone, day)) / MINUTE;

const wholeUpTo = (n: number, most: number): boolean => Number.isInteger(n) && n >= 0 && n <= most;

function spanOf({ day, from, to }: TypedEntry, zone: Zone): Decided<InstantSpan> {
  if (from === null) return refused(refusal('missing', 'Give the time it began, or a sum of hours instead.', 'from'));
  if (to === null) return refused(refusal('missing', 'Give the time it ended, or a sum of hours instead.', 'to'));
  if (!wholeUpTo(from, MINUTES_OF_DAY - 1))
    return refused(refusal('invalid', 'A time of the day from 00:00 to 23:59.', 'from'));
  if (!wholeUpTo(to, MINUTES_OF_DAY))
    return refused(refusal('invalid', 'A time of the day from 00:00 to 24:00.', 'to'));
  if (from === to) return refused(refusal('invalid', 'It ends when it begins; a whole day is 00:00 to 24:00.', 'to'));
  const first = toDayNumber(day);
  const span = {
    from: laterInstantOfWall(zone, first, from),
    to: laterInstantOfWall(zone, to < from ? first + 1 : first, to),
  };
  // Both ends in an hour that the clocks skip are one instant.
  return span.to > span.from
    ? decided(span)
    : refused(refusal('invalid', `The clocks skip that time on ${sayDate(day)}; give times that were.`, 'to'));
}

/**
 * An entry as typed, in the person's zone: a time inside a repeated hour is its second pass, `to` before `from` is on the next day.
 * Refused: times and a sum together or neither, more than the day has, what has not come yet, hours kinds beside times (they are
 * found from the calendar). Source: settled questions, Time.
 */
export function readEntry(typed: TypedEntry, zone: Zone, now: Instant): Decided<Entry> {
  const { day, kind, minutes, hours } = typed;
  const hasTimes = typed.from !== null || typed.to !== null;
  if (hasTimes && minutes !== null) return refused(refusal('invalid', 'Give times or a sum, not both.', 'minutes'));
  if (hasTimes) {
    const span = spanOf(typed, zone);
    if (!span.ok) return span;
    if (span.value.to > now)
      return refused(refusal('in-the-future', 'That time has not come yet; enter what has been.', 'to'));
    if (hours !== null)
      return refused(
        refusal('invalid', 'With times given the calendar of the place says which hours they are.', 'hours'),
      );
    return decided({ day, kind, span: span.value, minutes: (span.value.to - span.value.from) / MINUTE, hours: null });
  }
  if (minutes === null) return refused(refusal('missing', 'Give times, or a sum of hours and minutes.', 'minutes'));
  if (startOfDay(zone, day) > now)
    return refused(refusal('in-the-future', 'That day has not come yet; enter what has been.', 'day'));
  const most = minutesOfDay(day, zone);
  if (!Number.isInteger(minutes) || minutes < 1)
    return refused(
      refusal('invalid', 'Whole minutes, at least one; what was too much is taken back by a counter-entry.', 'minutes'),
    );
  if (minutes > most)
    return refused(
      refusal('too-large', `${sayDate(day)} has ${most / 60} hours; enter each day by itself.`, 'minutes'),
    );
  return decided({ day, kind, span: null, minutes, hours });
}

const MOST_KILOMETRES = 5000;

/** Refused: kilometres of something that is no travel, and other than whole ones from 0 to 5,000. */
export function checkKilometres(kind: EntryKind, kilometres: number): Refusal[] {
  if (!wholeUpTo(kilometres, MOST_KILOMETRES))
    return [refusal('invalid', 'Whole kilometres, from 0 to 5,000.', 'kilometres')];
  return kilometres > 0 && kind !== 'travel'
    ? [refusal('unsupported', 'Kilometres are of travel; enter the way by itself.', 'kilometres')]
    : [];
}

/** Minutes of one hours kind on one day of the person. */
export type EntryPiece = { readonly day: LocalDate; readonly hours: HoursKind; readonly minutes: number };

/** The minutes of an entry on each day of the person that it touches. */
function minutesByDay(
  { day, span, minutes }: Entry,
  zone: Zone,
): { readonly day: LocalDate; readonly minutes: number }[] {
  if (span === null) return [{ day, minutes }];
  const days: { day: LocalDate; minutes: number }[] = [];
  for (let on = localDateAt(zone, span.from), from: number = span.from; from < span.to; on = addDays(on, 1)) {
    const to = Math.min(span.to, startOfDay(zone, addDays(on, 1)));
    days.push({ day: on, minutes: (to - from) / MINUTE });
    from = to;
  }
  return days;
}

/**
 * Refused: an entry with which a day of the person would have more time than it has hours, 23 or 25 where the clocks change.
 * `heldOn`: the minutes entered on a day otherwise, counter-entries taken off.
 */
export function checkDays(entry: Entry, zone: Zone, heldOn: (day: LocalDate) => number): Refusal[] {
  return minutesByDay(entry, zone).flatMap(({ day, minutes }) => {
    const most = minutesOfDay(day, zone);
    const all = heldOn(day) + minutes;
    if (all <= most) return [];
    const field = entry.span === null ? 'minutes' : 'to';
    const text = `With what is entered already ${sayDate(day)} would have ${sayLength(all * MINUTE, 'as hours')}, and it has ${most / 60} h.`;
    return [refusal('too-large', text, field)];
  });
}

/** The days an entry touches, for whoever looks up what is entered on them. */
export const daysOfEntry = (entry: Entry, zone: Zone): LocalDate[] => minutesByDay(entry, zone).map((d) => d.day);
