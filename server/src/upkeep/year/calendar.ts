// Visits as an iCalendar (RFC 5545, RFC 7986): whole days, or the wanted time in the zone of the place with its VTIMEZONE.
import ICAL from 'ical.js';
import {
  addDays,
  DAY,
  fromDayNumber,
  offsetAt,
  offsetChanges,
  sayDate,
  toInstant,
  toWallTime,
  type Instant,
  type LocalDate,
  type Zone,
} from '#core/time/index.ts';
import { onSiteMinutes } from '#core/upkeep/index.ts';
import type { YearVisitRow } from './visits.ts';

/** A wall time; which zone it is of, a property says. */
function dateTime(date: LocalDate, minutes: number): ICAL.Time {
  const [year, month, day] = date.split('-').map(Number);
  const parts = { year, month, day, hour: Math.floor(minutes / 60), minute: minutes % 60, second: 0, isDate: false };
  return new ICAL.Time(parts, ICAL.Timezone.localTimezone);
}

/** As TZOFFSETTO has it. */
const offsetOf = (milliseconds: number): ICAL.UtcOffset => ICAL.UtcOffset.fromSeconds(Math.round(milliseconds / 1000));

const wallTime = (milliseconds: number): ICAL.Time =>
  dateTime(fromDayNumber(Math.floor(milliseconds / DAY)), (((milliseconds % DAY) + DAY) % DAY) / 60_000);

/** One observance: from a wall time, by the offset before, another offset holds. */
function observance(kind: 'standard' | 'daylight', wall: number, before: number, after: number): ICAL.Component {
  const part = new ICAL.Component(kind);
  part.addPropertyWithValue('dtstart', wallTime(wall));
  part.addPropertyWithValue('tzoffsetfrom', offsetOf(before));
  part.addPropertyWithValue('tzoffsetto', offsetOf(after));
  return part;
}

/** The zone with every change of its clocks in the years that are looked at, from the time-zone database. */
function zoneComponent(zone: Zone, fromYear: number, toYear: number): ICAL.Component {
  const component = new ICAL.Component('vtimezone');
  component.addPropertyWithValue('tzid', zone);
  const begin = Date.UTC(fromYear, 0, 1);
  const first = offsetAt(zone, begin);
  component.addSubcomponent(observance('standard', begin + first, first, first));
  for (const { at, before, after } of offsetChanges(zone, fromYear, toYear))
    component.addSubcomponent(observance(after > before ? 'daylight' : 'standard', at + before, before, after));
  return component;
}

function whole(event: ICAL.Component, date: LocalDate): void {
  event.addPropertyWithValue('dtstart', ICAL.Time.fromDateString(date));
  event.addPropertyWithValue('dtend', ICAL.Time.fromDateString(addDays(date, 1)));
}

/** At the wanted time; one that a change of clocks skips is moved forward by the gap. */
function timed(event: ICAL.Component, date: LocalDate, wanted: number, minutes: number, zone: Zone): void {
  const start = toInstant(zone, { date, minutes: wanted });
  const end = (start + minutes * 60_000) as Instant;
  for (const [name, at] of [['dtstart', start] as const, ['dtend', end] as const]) {
    const wall = toWallTime(zone, at);
    event.addPropertyWithValue(name, dateTime(wall.date, wall.minutes)).setParameter('tzid', zone);
  }
}

const STATUS: Readonly<Record<YearVisitRow['state'], string>> = {
  'to come': 'TENTATIVE',
  raised: 'CONFIRMED',
  'in window': 'CONFIRMED',
  'outside window': 'CONFIRMED',
  'not done': 'CONFIRMED',
};

function eventOf(visit: YearVisitRow, now: Instant): ICAL.Component {
  const { planned, timeOfDay, minutes, crew, zone, place, state } = visit;
  const event = new ICAL.Component('vevent');
  event.addPropertyWithValue('uid', `visit-${visit.scheduleId}-${visit.nominal}-${visit.part}@stavok`);
  event.addPropertyWithValue('dtstamp', ICAL.Time.fromJSDate(new Date(Math.floor(now / 1000) * 1000), true));
  if (timeOfDay === null || zone === null) whole(event, planned);
  else timed(event, planned, timeOfDay, onSiteMinutes(Math.max(1, minutes), crew), zone);
  event.addPropertyWithValue('summary', `${visit.jobPlan}, ${visit.tag}`);
  event.addPropertyWithValue('status', STATUS[state]);
  // Upkeep by itself keeps nobody busy in a calendar that is only read.
  event.addPropertyWithValue('transp', 'TRANSPARENT');
  const where = [place.label, place.address?.value].filter((x) => x).join(', ');
  if (where !== '') event.addPropertyWithValue('location', where);
  const done = state === 'in window' || state === 'outside window' ? 'Done.' : null;
  const lines = [
    `${visit.model}, agreement ${visit.agreement}`,
    `In time from ${sayDate(visit.windowFrom)} to ${sayDate(visit.windowTo)}.`,
    done,
  ];
  event.addPropertyWithValue('description', lines.filter((x) => x !== null).join('\n'));
  return event;
}

/** A property that the library has no type for: without one its text would not be escaped. */
function addTyped(to: ICAL.Component, name: string, type: 'text' | 'duration', value: string | ICAL.Duration): void {
  const property = new ICAL.Property(name, to);
  property.resetType(type);
  property.setValue(value);
  to.addProperty(property);
}

/** A calendar of visits. `now`: when it was made. */
export function calendarOf(name: string, visits: readonly YearVisitRow[], now: Instant): string {
  const calendar = new ICAL.Component('vcalendar');
  calendar.addPropertyWithValue('version', '2.0');
  calendar.addPropertyWithValue('prodid', '-//Stavok//Upkeep//EN');
  calendar.addPropertyWithValue('calscale', 'GREGORIAN');
  addTyped(calendar, 'name', 'text', name);
  addTyped(calendar, 'x-wr-calname', 'text', name);
  addTyped(calendar, 'refresh-interval', 'duration', ICAL.Duration.fromString('PT6H'));
  const zones = new Set(visits.flatMap((v) => (v.timeOfDay === null ? [] : (v.zone ?? []))));
  const year = new Date(now).getUTCFullYear();
  for (const zone of zones) calendar.addSubcomponent(zoneComponent(zone, year - 1, year + 2));
  for (const visit of visits) calendar.addSubcomponent(eventOf(visit, now));
  return `${calendar.toString()}\r\n`;
}

/** Days before and after today that a feed tells. */
const FEED_DAYS = { before: 92, after: 400 } as const;
export const feedSpan = (today: LocalDate): readonly [LocalDate, LocalDate] => [
  addDays(today, -FEED_DAYS.before),
  addDays(today, FEED_DAYS.after),
];
