// Visits as an iCalendar (RFC 5545, RFC 7986): whole days, or the wanted time in the zone of the place with its VTIMEZONE.
import ICAL from 'ical.js';
import {
  addDays,
  DAY,
  fromDayNumber,
  instant,
  MINUTE,
  offsetAt,
  offsetChanges,
  sayDate,
  toInstant,
  toWallTime,
  type Instant,
  type InstantSpan,
  type LocalDate,
  type Zone,
} from '#core/time/index.ts';
import { onSiteMinutes } from '#core/upkeep/index.ts';
import type { AgendaEntry } from '../../rota/index.ts';
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

function timed(event: ICAL.Component, span: InstantSpan, zone: Zone): void {
  for (const [name, at] of [['dtstart', span.from] as const, ['dtend', span.to] as const]) {
    const wall = toWallTime(zone, at);
    event.addPropertyWithValue(name, dateTime(wall.date, wall.minutes)).setParameter('tzid', zone);
  }
}

/** At the wanted time; one that a change of clocks skips is moved forward by the gap. */
function wantedSpan(date: LocalDate, wanted: number, minutes: number, zone: Zone): InstantSpan {
  const from = toInstant(zone, { date, minutes: wanted });
  return { from, to: instant(from + minutes * MINUTE) };
}

const STATUS: Readonly<Record<YearVisitRow['state'], string>> = {
  'to come': 'TENTATIVE',
  raised: 'CONFIRMED',
  'in window': 'CONFIRMED',
  'outside window': 'CONFIRMED',
  'not done': 'CONFIRMED',
};

function begun(uid: string, now: Instant): ICAL.Component {
  const event = new ICAL.Component('vevent');
  event.addPropertyWithValue('uid', uid);
  event.addPropertyWithValue('dtstamp', ICAL.Time.fromJSDate(new Date(Math.floor(now / 1000) * 1000), true));
  return event;
}

/** Somebody is there then, or away: their calendar is taken. */
function agendaEvent(entry: AgendaEntry, now: Instant): ICAL.Component {
  const event = begun(entry.uid, now);
  timed(event, entry.span, entry.zone);
  event.addPropertyWithValue('sequence', entry.version);
  event.addPropertyWithValue('summary', entry.title);
  event.addPropertyWithValue('status', entry.isTentative ? 'TENTATIVE' : 'CONFIRMED');
  if (entry.where !== '') event.addPropertyWithValue('location', entry.where);
  if (entry.lines.length > 0) event.addPropertyWithValue('description', entry.lines.join('\n'));
  return event;
}

function eventOf(visit: YearVisitRow, now: Instant): ICAL.Component {
  const { planned, timeOfDay, minutes, crew, zone, place, state } = visit;
  const event = begun(`visit-${visit.scheduleId}-${visit.nominal}-${visit.part}@stavok`, now);
  if (timeOfDay === null || zone === null) whole(event, planned);
  else timed(event, wantedSpan(planned, timeOfDay, onSiteMinutes(Math.max(1, minutes), crew), zone), zone);
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

/** A calendar of visits, and of what else somebody has to do. `now`: when it was made. */
export function calendarOf(
  name: string,
  visits: readonly YearVisitRow[],
  now: Instant,
  agenda: readonly AgendaEntry[] = [],
): string {
  const calendar = new ICAL.Component('vcalendar');
  calendar.addPropertyWithValue('version', '2.0');
  calendar.addPropertyWithValue('prodid', '-//Stavok//Upkeep//EN');
  calendar.addPropertyWithValue('calscale', 'GREGORIAN');
  addTyped(calendar, 'name', 'text', name);
  addTyped(calendar, 'x-wr-calname', 'text', name);
  addTyped(calendar, 'refresh-interval', 'duration', ICAL.Duration.fromString('PT6H'));
  const zones = new Set([
    ...visits.flatMap((v) => (v.timeOfDay === null ? [] : (v.zone ?? []))),
    ...agenda.map((a) => a.zone),
  ]);
  const year = new Date(now).getUTCFullYear();
  for (const zone of zones) calendar.addSubcomponent(zoneComponent(zone, year - 1, year + 2));
  for (const visit of visits) calendar.addSubcomponent(eventOf(visit, now));
  for (const entry of agenda) calendar.addSubcomponent(agendaEvent(entry, now));
  return `${calendar.toString()}\r\n`;
}

/** Days before and after today that a feed tells. */
const FEED_DAYS = { before: 92, after: 400 } as const;
export const feedSpan = (today: LocalDate): readonly [LocalDate, LocalDate] => [
  addDays(today, -FEED_DAYS.before),
  addDays(today, FEED_DAYS.after),
];
