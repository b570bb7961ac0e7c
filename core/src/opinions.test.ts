// Second opinions: working time against the package opening_hours, durations and zones against Temporal, clocks over changes of the clock.
import fc from 'fast-check';
import { Temporal } from 'temporal-polyfill';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { ELAPSED_TIME, weekdaysOpen, workingTimeOf, type Calendar, type WorkingTime } from './calendars/index.ts';
import { asId, type CalendarId, type ServiceLevelId } from './ids.ts';
import { deriveClocks, strictestPromises, type ServiceLevel } from './service-levels/index.ts';
import {
  asLocalDate,
  asZone,
  civilOfDayNumber,
  formatDuration,
  HOUR,
  instant,
  localDateAt,
  MINUTE,
  parseDuration,
  toDayNumber,
  toInstant,
  toWallTime,
  type Instant,
} from './time/index.ts';

type OpeningHours = { getOpenDuration(from: Date, to: Date): [number, number]; getState(at: Date): boolean };
const before = process.env.TZ;
const ZONE = 'Europe/Lisbon';

/** The package counts in the zone of the process. */
beforeAll(() => void (process.env.TZ = ZONE));
afterAll(() => void (before === undefined ? delete process.env.TZ : (process.env.TZ = before)));

async function reference(text: string): Promise<OpeningHours> {
  const { default: Package } = (await import('opening_hours')) as unknown as {
    default: new (value: string, place: object) => OpeningHours;
  };
  return new Package(text, { address: { country_code: 'pt', state: '' } });
}

const calendar = (weekly: Calendar['weekly'], closed: string[] = []): WorkingTime =>
  workingTimeOf({
    name: 'x',
    zone: asZone(ZONE),
    weekly,
    closed: closed.map((d) => ({ date: asLocalDate(d), name: 'closed' })),
    extraOpen: [],
  });

describe('working time against opening_hours', () => {
  const cases: [string, string, WorkingTime][] = [
    ['office days', 'Mo-Fr 09:00-18:00', calendar(weekdaysOpen(540, 1080))],
    [
      'office days with holidays',
      'Mo-Fr 09:00-18:00; 2026 Apr 03 off; 2026 Dec 25 off; 2026 Jun 10 off',
      calendar(weekdaysOpen(540, 1080), ['2026-04-03', '2026-12-25', '2026-06-10']),
    ],
    [
      'split days',
      'Mo-Sa 08:30-12:30,14:00-17:15',
      calendar(
        [1, 2, 3, 4, 5, 6, 7].map((d) =>
          d <= 6
            ? [
                { from: 510, to: 750 },
                { from: 840, to: 1035 },
              ]
            : [],
        ),
      ),
    ],
    ['nights', 'Mo-Fr 22:00-06:00', calendar(weekdaysOpen(1320, 360))],
    ['early hours over clock changes', 'Su 00:30-04:00', calendar(weekdaysOpen(30, 240, [7]))],
  ];
  it.each(cases)('%s', async (_, text, time) => {
    const other = await reference(text);
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 360 * 24 * 12 }),
        fc.integer({ min: 0, max: 20 * 24 * 12 }),
        (start, span) => {
          const from = instant(Date.UTC(2026, 0, 1) + start * 5 * MINUTE);
          const to = instant(from + span * 5 * MINUTE);
          // Times of day that a clock change repeats or skips are judged by RFC 5545 here and by Date there: left to the tests beside the code.
          const change = [Date.UTC(2026, 2, 29), Date.UTC(2026, 9, 25)].some(
            (c) => text.startsWith('Su') && from < c + 6 * HOUR && to > c - 6 * HOUR,
          );
          if (!change) expect(time.between(from, to)).toBe(other.getOpenDuration(new Date(from), new Date(to))[0]);
          if (!change) expect(time.isOpen(from)).toBe(other.getState(new Date(from)));
        },
      ),
      { numRuns: 40 },
    );
  });
});

describe('against Temporal', () => {
  it('durations read as Temporal reads them', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 50 }),
        fc.integer({ min: 0, max: 400 }),
        fc.integer({ min: 0, max: 500 }),
        (days, hours, minutes) => {
          const text = `P${days}DT${hours}H${minutes}M`;
          expect(parseDuration(text)).toBe(
            Temporal.Duration.from(text).total({ unit: 'minutes', relativeTo: Temporal.PlainDate.from('2026-01-01') }),
          );
        },
      ),
    );
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 10_000 }), (m) => {
        expect(Temporal.Duration.from(formatDuration(m)).total('minutes')).toBe(m);
      }),
    );
  });

  it('wall times and dates of instants, in zones on both sides of the date line', () => {
    const zones = [
      'Europe/Lisbon',
      'Europe/Madrid',
      'America/New_York',
      'Australia/Lord_Howe',
      'Pacific/Auckland',
      'Asia/Kathmandu',
      'America/St_Johns',
      'Pacific/Kiritimati',
    ];
    fc.assert(
      fc.property(
        fc.constantFrom(...zones),
        fc.integer({ min: Date.UTC(2000, 0, 1), max: Date.UTC(2040, 0, 1) }),
        (name, ms) => {
          const at = instant(Math.floor(ms / MINUTE) * MINUTE);
          const other = Temporal.Instant.fromEpochMilliseconds(at).toZonedDateTimeISO(name);
          expect(toWallTime(asZone(name), at)).toEqual({
            date: other.toPlainDate().toString(),
            minutes: other.hour * 60 + other.minute,
          });
          expect(localDateAt(asZone(name), at)).toBe(other.toPlainDate().toString());
        },
      ),
      { numRuns: 500 },
    );
  });

  it('civil dates survive the round trip for four centuries', () => {
    for (let day = toDayNumber(asLocalDate('1700-01-01')); day < toDayNumber(asLocalDate('2100-01-01')); day += 97) {
      const { year, month, day: d } = civilOfDayNumber(day);
      expect(toDayNumber(asLocalDate(Temporal.PlainDate.from({ year, month, day: d }).toString()))).toBe(day);
    }
  });
});

describe('clocks in a night of a clock change', () => {
  const always: ServiceLevel = {
    id: asId<ServiceLevelId>(1),
    name: 'Night',
    pauses: ['no access'],
    targets: {
      1: {
        arrival: { minutes: 240, measure: 'elapsed' },
        restoration: { minutes: 240, measure: 'working', calendarId: asId<CalendarId>(1) },
      },
    },
  };
  const nights = calendar(weekdaysOpen(1320, 360, [1, 2, 3, 4, 5, 6, 7]));
  const timeOf = (p: { measure: string }): WorkingTime => (p.measure === 'elapsed' ? ELAPSED_TIME : nights);
  const wall = (date: string, hour: number, minute = 0): Instant =>
    toInstant(asZone(ZONE), { date: asLocalDate(date), minutes: hour * 60 + minute });
  const due = (start: Instant) =>
    deriveClocks(start, [], strictestPromises([always], 1, start, timeOf), timeOf, start).map((c) =>
      'dueAt' in c && c.dueAt !== null ? toWallTime(asZone(ZONE), c.dueAt) : null,
    );

  it('four hours end an hour later on the wall in spring, an hour earlier in autumn', () => {
    expect(due(wall('2026-03-28', 23))).toEqual([
      { date: '2026-03-29', minutes: 4 * 60 },
      { date: '2026-03-29', minutes: 4 * 60 },
    ]);
    expect(due(wall('2026-10-24', 23))).toEqual([
      { date: '2026-10-25', minutes: 2 * 60 },
      { date: '2026-10-25', minutes: 2 * 60 },
    ]);
    expect(due(wall('2026-06-10', 23))).toEqual([
      { date: '2026-06-11', minutes: 3 * 60 },
      { date: '2026-06-11', minutes: 3 * 60 },
    ]);
  });

  it('a pause over the change takes out just what it lasted', () => {
    const start = wall('2026-03-28', 22);
    const [from, to] = [wall('2026-03-29', 0), wall('2026-03-29', 3)];
    expect(to - from).toBe(2 * HOUR);
    const clocks = deriveClocks(
      start,
      [
        { kind: 'paused', at: from, reason: 'no access' },
        { kind: 'resumed', at: to },
      ],
      strictestPromises([always], 1, start, timeOf),
      timeOf,
      to,
    );
    expect(clocks.map((c) => ('left' in c ? c.left / HOUR : null))).toEqual([2, 2]);
  });

  it('a promise of a calendar that never opens again gives way to any other', () => {
    const never = workingTimeOf({
      name: 'never',
      zone: asZone(ZONE),
      weekly: [[], [], [], [], [], [], []],
      closed: [],
      extraOpen: [],
    });
    const shut: ServiceLevel = {
      ...always,
      id: asId<ServiceLevelId>(2),
      targets: { 1: { arrival: { minutes: 1, measure: 'working', calendarId: asId<CalendarId>(9) } } },
    };
    const time = (p: { measure: string; calendarId?: number }): WorkingTime =>
      p.measure === 'elapsed' ? ELAPSED_TIME : p.calendarId === 9 ? never : nights;
    const start = wall('2026-06-10', 23);
    expect(strictestPromises([shut, always], 1, start, time).arrival?.serviceLevelId).toBe(1);
    const [clock] = deriveClocks(
      start,
      [],
      strictestPromises([shut], 1, start, time),
      time,
      instant(start + 1000 * HOUR),
    );
    expect(clock?.state).toBe('running');
  });
});
