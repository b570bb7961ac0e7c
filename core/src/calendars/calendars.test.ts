import { describe, expect, it } from 'vitest';
import fc from 'fast-check';
import {
  asLocalDate,
  asZone,
  DAY,
  HOUR,
  instant,
  MINUTE,
  startOfDay,
  toInstant,
  toWallTime,
  weekdayOf,
  type Instant,
  type LocalDate,
  type Zone,
} from '../time/index.ts';
import {
  ALWAYS_OPEN,
  ELAPSED_TIME,
  NegativeSpan,
  readCalendar,
  weekdaysOpen,
  workingDaysOf,
  workingTimeOf,
  type Calendar,
} from './index.ts';

const d = (text: string): LocalDate => asLocalDate(text);
const calendar = (zone: string, weekly: Calendar['weekly'], closed: string[] = []): Calendar => ({
  name: 'test',
  zone: asZone(zone),
  weekly,
  closed: closed.map((date) => ({ date: d(date), name: 'closed' })),
  extraOpen: [],
});
const office = calendar('Europe/Lisbon', weekdaysOpen(9 * 60, 17 * 60), ['2026-12-25', '2026-12-08']);
const at = (zone: string, date: string, time: string): Instant => {
  const [h = 0, m = 0] = time.split(':').map(Number);
  return toInstant(asZone(zone), { date: d(date), minutes: h * 60 + m });
};
const lisbon = (date: string, time: string): Instant => at('Europe/Lisbon', date, time);

/** A slow second opinion that walks minute by minute; only for tests. */
function walkMinutes(cal: Calendar, from: Instant, to: Instant): number {
  const zone: Zone = cal.zone;
  let open = 0;
  for (let t: number = from; t < to; t += MINUTE) {
    const wall = toWallTime(zone, instant(t));
    const closed = cal.closed.some((c) => c.date === wall.date);
    const spans = closed ? [] : (cal.weekly[weekdayOf(wall.date) - 1] ?? []);
    if (spans.some((s) => wall.minutes >= s.from && wall.minutes < s.to)) open += MINUTE;
  }
  return open;
}

describe('working time', () => {
  const time = workingTimeOf(office);

  it('adds nothing to give the same instant, even when shut', () => {
    const night = lisbon('2026-11-24', '03:00');
    expect(time.add(night, 0)).toBe(night);
  });

  it('uses a target up at closing time, not at the next opening', () => {
    expect(time.add(lisbon('2026-11-24', '15:00'), 2 * HOUR)).toBe(lisbon('2026-11-24', '17:00'));
    expect(time.add(lisbon('2026-11-24', '15:00'), 2 * HOUR + MINUTE)).toBe(lisbon('2026-11-25', '09:01'));
  });

  // Common practice: a promise of 16 working hours to respond.
  it('promises 16 working hours over a weekend and a holiday', () => {
    expect(time.add(lisbon('2026-12-04', '16:00'), 16 * HOUR)).toBe(lisbon('2026-12-09', '16:00'));
  });

  it('counts a night with a clock change as 23 or 25 hours of 24×7', () => {
    const always = (zone: string) => workingTimeOf(calendar(zone, ALWAYS_OPEN));
    const length = (zone: string, from: string, to: string) =>
      always(zone).between(at(zone, from, '12:00'), at(zone, to, '12:00')) / HOUR;
    expect(length('Europe/Lisbon', '2026-03-28', '2026-03-29')).toBe(23);
    expect(length('Europe/Madrid', '2026-10-24', '2026-10-25')).toBe(25);
    expect(length('Australia/Lord_Howe', '2026-04-04', '2026-04-05')).toBe(24.5);
    expect(length('Australia/Lord_Howe', '2026-10-03', '2026-10-04')).toBe(23.5);
  });

  it('lets a shift that began the evening before a holiday run on to its end', () => {
    const nights = workingTimeOf(
      calendar('Europe/Lisbon', weekdaysOpen(22 * 60, 6 * 60, [1, 2, 3, 4, 5, 6, 7]), ['2026-12-25']),
    );
    expect(nights.between(lisbon('2026-12-24', '20:00'), lisbon('2026-12-25', '12:00'))).toBe(8 * HOUR);
    expect(nights.between(lisbon('2026-12-25', '20:00'), lisbon('2026-12-26', '12:00'))).toBe(0);
  });

  it('counts overlapping spans once, across midnight too', () => {
    const weekly = ALWAYS_OPEN.map(() => [
      { from: 8 * 60, to: 14 * 60 },
      { from: 12 * 60, to: 18 * 60 },
      { from: 20 * 60, to: 9 * 60 },
    ]);
    const overlapping = workingTimeOf(calendar('Europe/Lisbon', weekly));
    expect(overlapping.between(lisbon('2026-06-01', '12:00'), lisbon('2026-06-02', '12:00'))).toBe(22 * HOUR);
  });

  it('takes extra open days with their own spans', () => {
    const open = workingTimeOf({
      ...office,
      extraOpen: [{ date: d('2026-11-28'), name: 'stocktaking', spans: [{ from: 600, to: 720 }] }],
    });
    expect(open.between(lisbon('2026-11-28', '00:00'), lisbon('2026-11-29', '00:00'))).toBe(2 * HOUR);
  });

  it('adds and measures as inverses, and agrees with a minute walk', () => {
    const cases = [
      office,
      calendar('Australia/Lord_Howe', weekdaysOpen(0, 1440, [1, 3, 5, 6])),
      calendar('America/New_York', weekdaysOpen(60, 300, [6, 7, 1]), ['2026-03-09']),
    ];
    fc.assert(
      fc.property(
        fc.constantFrom(...cases),
        fc.integer({ min: 0, max: 400 * 1440 }),
        fc.integer({ min: 0, max: 9 * 1440 }),
        fc.integer({ min: 0, max: 4000 }),
        (cal, start, span, target) => {
          const t = workingTimeOf(cal);
          const a = instant(Date.UTC(2026, 0, 1) + start * MINUTE);
          const b = instant(a + span * MINUTE);
          expect(t.between(a, b)).toBe(walkMinutes(cal, a, b));
          const u = t.add(a, target * MINUTE) as Instant;
          expect(t.between(a, u)).toBe(target * MINUTE);
          if (target > 0) expect(t.between(a, instant(u - MINUTE))).toBeLessThan(target * MINUTE);
        },
      ),
      { numRuns: 60 },
    );
  });

  it('gives up on a calendar that never opens again within ten years', () => {
    const closed = Array.from({ length: 4200 }, (_, i) =>
      new Date(Date.UTC(2026, 0, 1) + i * DAY).toISOString().slice(0, 10),
    );
    const shut = workingTimeOf(calendar('Europe/Lisbon', weekdaysOpen(540, 1020), closed));
    expect(shut.add(lisbon('2026-02-01', '10:00'), HOUR)).toBeNull();
  });

  it('refuses to measure backwards', () => {
    expect(() => time.between(lisbon('2026-11-25', '10:00'), lisbon('2026-11-24', '10:00'))).toThrow(NegativeSpan);
    expect(() => ELAPSED_TIME.between(instant(2), instant(1))).toThrow(NegativeSpan);
  });

  it('lists open segments clipped to what was asked', () => {
    expect(
      time
        .openSegments(lisbon('2026-11-24', '10:00'), lisbon('2026-11-25', '10:00'))
        .map((s) => (s.to - s.from) / HOUR),
    ).toEqual([7, 1]);
    expect([time.isOpen(lisbon('2026-11-24', '09:00')), time.isOpen(lisbon('2026-11-24', '17:00'))]).toEqual([
      true,
      false,
    ]);
  });
});

describe('working days', () => {
  // ISDA Definitions: following, modified following, preceding; month ends and holidays. 2026-05-31 is a Sunday, 2026-05-01 a holiday Friday.
  const days = workingDaysOf(
    calendar('Europe/Lisbon', weekdaysOpen(540, 1020), ['2026-05-01', '2026-12-25', '2026-06-04']),
  );
  const table: [string, 'none' | 'following' | 'modified following' | 'preceding' | 'nearest', string][] = [
    ['2026-05-31', 'none', '2026-05-31'],
    ['2026-05-31', 'following', '2026-06-01'],
    ['2026-05-31', 'modified following', '2026-05-29'],
    ['2026-05-31', 'preceding', '2026-05-29'],
    ['2026-05-31', 'nearest', '2026-06-01'],
    ['2026-05-01', 'following', '2026-05-04'],
    ['2026-05-01', 'modified following', '2026-05-04'],
    ['2026-05-01', 'preceding', '2026-04-30'],
    ['2026-05-01', 'nearest', '2026-04-30'],
    ['2026-10-31', 'modified following', '2026-10-30'],
    ['2026-12-26', 'nearest', '2026-12-28'],
    ['2026-06-04', 'nearest', '2026-06-05'],
    ['2026-06-03', 'following', '2026-06-03'],
  ];
  it.each(table)('%s %s is %s', (date, convention, moved) => {
    expect(days.move(d(date), convention)).toBe(moved);
  });

  // ISDA: modified following stays in the month of the date, and the same month a year later is another month.
  it('modified following goes back when the next working day lies a whole year on', () => {
    const once = workingDaysOf({
      ...calendar(
        'Europe/Lisbon',
        weekdaysOpen(540, 1020).map(() => []),
      ),
      extraOpen: ['2026-03-02', '2027-03-10'].map((date) => ({
        date: d(date),
        name: 'open',
        spans: [{ from: 540, to: 1020 }],
      })),
    });
    expect(once.move(d('2026-03-20'), 'modified following')).toBe('2026-03-02');
    expect(once.move(d('2026-03-20'), 'following')).toBe('2027-03-10');
  });

  // OpenFormula 1.2 (OASIS), WORKDAY: the date itself is not counted, negative numbers go back.
  it('counts as WORKDAY does', () => {
    expect(days.addWorkingDays(d('2026-04-30'), 1)).toBe('2026-05-04');
    expect(days.addWorkingDays(d('2026-05-04'), -1)).toBe('2026-04-30');
    expect(days.addWorkingDays(d('2026-05-02'), 0)).toBe('2026-05-02');
    expect(days.addWorkingDays(d('2026-12-24'), 3)).toBe('2026-12-30');
  });

  it('never opens: no date', () => {
    const never = workingDaysOf(
      calendar(
        'Europe/Lisbon',
        Array.from({ length: 7 }, () => []),
      ),
    );
    expect(never.move(d('2026-05-01'), 'following')).toBeNull();
    expect(workingDaysOf(null).isWorkingDay(d('2026-05-03'))).toBe(true);
  });
});

describe('reading a calendar', () => {
  const good = { name: 'Office', zone: 'Europe/Lisbon', weekly: weekdaysOpen(540, 1020), closed: [], extraOpen: [] };
  it('takes a good one', () => expect(readCalendar(good)).toMatchObject({ ok: true }));
  it.each([
    ['zone', { ...good, zone: 'Europe/Atlantis' }],
    ['weekly', { ...good, weekly: weekdaysOpen(540, 1020, []) }],
    ['weekly.0', { ...good, weekly: weekdaysOpen(540, 1500) }],
    ['closed.0.date', { ...good, closed: [{ date: '2026-02-30', name: '' }] }],
    ['name', { ...good, name: ' ' }],
  ])('refuses a bad %s at its field', (field, input) => {
    const answer = readCalendar(input);
    expect(answer.ok ? [] : answer.refusals.map((r) => r.field)).toContain(field);
  });

  it('starts days where the zone says', () =>
    expect(startOfDay(asZone('Europe/Lisbon'), d('2026-01-01'))).toBe(Date.UTC(2026, 0, 1)));
});
