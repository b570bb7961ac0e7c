import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { readCalendar, weekdaysOpen, type Calendar } from '../calendars/index.ts';
import {
  asLocalDate,
  asZone,
  instant,
  localDateAt,
  MINUTE,
  startOfDay,
  toWallTime,
  weekdayOf,
  type Instant,
  type Zone,
} from '../time/index.ts';
import {
  checkDays,
  daysOfEntry,
  divideEntry,
  hoursKindAt,
  piecesOf,
  placeHoursOf,
  readEntry,
  type Entry,
  type NightSpan,
} from './index.ts';

const LISBON = asZone('Europe/Lisbon');
const MADRID = asZone('Europe/Madrid');

function aCalendar(zone: Zone, over: Partial<Calendar> = {}): Calendar {
  const read = readCalendar({
    name: 'Hours',
    zone,
    weekly: weekdaysOpen(9 * 60, 18 * 60),
    closed: [
      { date: '2026-12-08', name: 'Immaculate Conception' },
      { date: '2026-12-24', name: 'Stocktaking', holiday: false },
    ],
    extraOpen: [{ date: '2026-12-08', name: 'open all the same', spans: [{ from: 540, to: 720 }] }],
    ...over,
  });
  if (!read.ok) throw new Error(read.refusals[0]?.message);
  return read.value;
}
const NIGHT: NightSpan = { from: 22 * 60, to: 6 * 60 };
const place = placeHoursOf(aCalendar(LISBON), LISBON);
const at = (text: string): Instant => instant(Date.parse(text));

/** For one order at the place. */
const pieces = (entry: Entry, zone: Zone) => divideEntry(entry, [{ place, night: NIGHT, share: 1 }], zone).flat();

describe('the hours kind at a place', () => {
  it.each([
    ['2026-11-24T10:00Z', 'normal', 'a Tuesday in opening hours'],
    ['2026-11-24T08:59Z', 'outside', 'a minute before it opens'],
    ['2026-11-24T18:00Z', 'outside', 'closing time excluded'],
    ['2026-11-24T22:00Z', 'night', 'the night begins'],
    ['2026-11-25T05:59Z', 'night', 'its last minute'],
    ['2026-11-25T06:00Z', 'outside', 'its end excluded'],
    ['2026-11-29T10:00Z', 'holiday', 'a Sunday'],
    ['2026-11-29T23:00Z', 'holiday', 'a Sunday’s night'],
    ['2026-12-08T10:00Z', 'holiday', 'a holiday that is open all the same'],
    ['2026-12-24T10:00Z', 'outside', 'a closed day that is no holiday'],
    ['2026-12-24T23:00Z', 'night', 'its night'],
  ])('%s is %s: %s', (when, kind) => {
    expect(hoursKindAt(place, NIGHT, at(when))).toBe(kind);
  });

  it('goes by the minute of the place, not of the person', () => {
    const madrid = placeHoursOf(aCalendar(MADRID), MADRID);
    // 17:30 in Lisbon is 18:30 in Madrid, where it is closed by then.
    expect([
      hoursKindAt(place, NIGHT, at('2026-11-24T17:30Z')),
      hoursKindAt(madrid, NIGHT, at('2026-11-24T17:30Z')),
    ]).toEqual(['normal', 'outside']);
  });
});

describe('an entry in pieces', () => {
  it('is split where hours kinds meet, and at the person’s midnight', () => {
    const span = { from: at('2026-11-24T17:00Z'), to: at('2026-11-25T07:00Z') };
    const pieces = piecesOf(span, place, NIGHT, LISBON);
    expect(pieces.map((p) => [p.day, p.hours, (p.to - p.from) / MINUTE])).toEqual([
      ['2026-11-24', 'normal', 60],
      ['2026-11-24', 'outside', 240],
      ['2026-11-24', 'night', 120],
      ['2026-11-25', 'night', 360],
      ['2026-11-25', 'outside', 60],
    ]);
  });

  it.each([
    // Lisbon, 25 October 2026: 02:00 summer time is 01:00 again. Madrid an hour earlier on the wall is the same instant.
    ['2026-10-24T20:00Z', '2026-10-25T08:00Z', LISBON],
    ['2026-03-28T20:00Z', '2026-03-29T08:00Z', LISBON],
    ['2026-10-24T20:00Z', '2026-10-25T08:00Z', MADRID],
    ['2026-04-04T10:00Z', '2026-04-05T01:00Z', asZone('Australia/Lord_Howe')],
  ])('over the clock change %s to %s at %s: every minute as the minute itself says', (from, to, zone) => {
    for (const night of [NIGHT, { from: 90, to: 110 }, { from: 30, to: 75 }, null] as const)
      for (const person of [LISBON, MADRID, asZone('America/New_York')])
        sameByTheMinute(at(from), at(to), placeHoursOf(aCalendar(zone), zone), night, person);
  });

  it('agrees with a walk minute by minute, anywhere and at any time', () => {
    const zones = [LISBON, MADRID, asZone('America/New_York'), asZone('Australia/Lord_Howe'), asZone('Asia/Kolkata')];
    fc.assert(
      fc.property(
        fc.constantFrom(...zones),
        fc.constantFrom(...zones),
        fc.integer({ min: 0, max: 400 * 1440 }),
        fc.integer({ min: 1, max: 2000 }),
        fc.option(fc.tuple(fc.integer({ min: 0, max: 1439 }), fc.integer({ min: 0, max: 1439 })), { nil: null }),
        (zone, person, begins, length, night) => {
          const from = instant(Date.parse('2026-01-01T00:00Z') + begins * MINUTE);
          const span = night && night[0] !== night[1] ? { from: night[0], to: night[1] } : null;
          sameByTheMinute(from, instant(from + length * MINUTE), placeHoursOf(aCalendar(zone), zone), span, person);
        },
      ),
      { numRuns: 60 },
    );
  });
});

/** A walk that knows nothing of edges: each minute asked for itself. */
function sameByTheMinute(
  from: Instant,
  to: Instant,
  hours: ReturnType<typeof placeHoursOf>,
  night: NightSpan,
  person: Zone,
): void {
  const pieces = piecesOf({ from, to }, hours, night, person);
  expect([pieces[0]?.from, pieces.at(-1)?.to]).toEqual([from, to]);
  const walked: Record<string, number> = {};
  for (let t: number = from; t < to; t += MINUTE) {
    const { date, minutes } = toWallTime(hours.zone, instant(t));
    const isNight =
      night !== null &&
      (night.from < night.to
        ? night.from <= minutes && minutes < night.to
        : minutes >= night.from || minutes < night.to);
    const isHoliday = weekdayOf(date) === 7 || date === '2026-12-08';
    const kind = isHoliday
      ? 'holiday'
      : isNight
        ? 'night'
        : hours.workingTime.between(instant(t), instant(t + MINUTE)) > 0
          ? 'normal'
          : 'outside';
    const key = `${localDateAt(person, instant(t))} ${kind}`;
    walked[key] = (walked[key] ?? 0) + 1;
  }
  const summed: Record<string, number> = {};
  for (const p of pieces)
    summed[`${p.day} ${p.hours}`] = (summed[`${p.day} ${p.hours}`] ?? 0) + (p.to - p.from) / MINUTE;
  expect(summed).toEqual(walked);
}

describe('an entry as typed', () => {
  const NOW = at('2026-11-24T20:00Z');
  const typed = (over: object) => ({
    ...{ day: asLocalDate('2026-11-24'), kind: 'work', from: null, to: null, minutes: null, hours: null },
    ...over,
  });
  const read = (over: object, zone = LISBON) => readEntry(typed(over) as Parameters<typeof readEntry>[0], zone, NOW);
  const lasts = (over: object): number => {
    const entry = read(over);
    return entry.ok ? entry.value.minutes : NaN;
  };

  it('lasts from one time to the other, over midnight into the next day', () => {
    expect(lasts({ from: 540, to: 600 })).toBe(60);
    expect(lasts({ day: '2026-11-20', from: 1380, to: 60 })).toBe(120);
    expect(lasts({ day: '2026-11-20', from: 0, to: 1440 })).toBe(1440);
  });

  it('takes a time of the hour that is lived twice for its second pass', () => {
    // 25 October: 01:00 to 02:00 comes twice; from 00:30 to the second 01:30 are two hours.
    expect(lasts({ day: '2026-10-25', from: 30, to: 90 })).toBe(120);
    expect(lasts({ day: '2026-10-25', from: 70, to: 90 })).toBe(20);
    expect(lasts({ day: '2026-10-25', from: 0, to: 1440 })).toBe(25 * 60);
    expect(lasts({ day: '2026-03-29', from: 0, to: 1440 })).toBe(23 * 60);
  });

  it('may be a plain sum: normal hours, or of a Sunday, or what is stated', () => {
    const sum = (over: object) => {
      const entry = read({ minutes: 90, ...over });
      return entry.ok ? pieces(entry.value, LISBON) : entry.refusals;
    };
    expect(sum({})).toEqual([{ day: '2026-11-24', hours: 'normal', minutes: 90 }]);
    expect(sum({ day: '2026-11-22' })).toEqual([{ day: '2026-11-22', hours: 'holiday', minutes: 90 }]);
    expect(sum({ hours: 'night' })).toEqual([{ day: '2026-11-24', hours: 'night', minutes: 90 }]);
  });

  it.each([
    [{}, 'minutes', /Give times, or a sum/],
    [{ from: 540 }, 'to', /ended/],
    [{ to: 540 }, 'from', /began/],
    [{ from: 540, to: 600, minutes: 60 }, 'minutes', /not both/],
    [{ from: 540, to: 540 }, 'to', /00:00 to 24:00/],
    [{ from: -1, to: 540 }, 'from', /00:00 to 23:59/],
    [{ from: 540, to: 1441 }, 'to', /24:00/],
    [{ from: 540, to: 600, hours: 'night' }, 'hours', /calendar of the place/],
    [{ from: 1190, to: 1215 }, 'to', /not come yet/],
    [{ day: '2026-11-25', minutes: 10 }, 'day', /not come yet/],
    [{ minutes: 25 * 60 }, 'minutes', /has 24 hours/],
    [{ day: '2026-03-29', minutes: 24 * 60 }, 'minutes', /has 23 hours/],
    [{ minutes: 0 }, 'minutes', /at least one/],
    [{ minutes: -30 }, 'minutes', /counter-entry/],
    [{ minutes: 1.5 }, 'minutes', /Whole minutes/],
  ])('%j is refused at %s', (over, field, message) => {
    const entry = read(over);
    expect(entry.ok ? 'taken' : entry.refusals).toEqual([
      expect.objectContaining({ field, message: expect.stringMatching(message) as string }),
    ]);
  });

  it('with others is no more than the day has, on each day it touches', () => {
    const entry = (over: object) => {
      const found = read(over);
      if (!found.ok) throw new Error(found.refusals[0]?.message);
      return found.value;
    };
    const night = entry({ day: '2026-11-20', from: 1320, to: 360 });
    const fields = (held: Record<string, number>, of = night) =>
      checkDays(of, LISBON, (day) => held[day] ?? 0).map((r) => [r.field, /(\w+ \d+ \w+) \d{4}/.exec(r.message)?.[1]]);
    expect(daysOfEntry(night, LISBON)).toEqual(['2026-11-20', '2026-11-21']);
    expect(fields({ '2026-11-20': 1320, '2026-11-21': 1080 })).toEqual([]);
    expect(fields({ '2026-11-20': 1321, '2026-11-21': 1080 })).toEqual([['to', 'Fri 20 Nov']]);
    expect(fields({ '2026-11-21': 1081 })).toEqual([['to', 'Sat 21 Nov']]);
    const sum = entry({ day: '2026-10-25', minutes: 60 });
    expect(fields({ '2026-10-25': 1440 }, sum)).toEqual([]);
    expect(fields({ '2026-10-25': 1441 }, sum)).toEqual([['minutes', 'Sun 25 Oct']]);
  });

  it('is 25 hours on the day the clocks go back, and not more', () => {
    expect(lasts({ day: '2026-10-25', minutes: 25 * 60 })).toBe(1500);
    expect(lasts({ day: '2026-10-25', minutes: 25 * 60 + 1 })).toBeNaN();
  });

  it('keeps its minutes in its pieces, whatever is typed', () => {
    fc.assert(
      // From the day before yesterday back: over midnight it has ended by now, whatever its times.
      fc.property(fc.integer({ min: 1, max: 320 }), fc.nat(1439), fc.nat(1440), (ago, from, to) => {
        const day = localDateAt(LISBON, instant(startOfDay(LISBON, asLocalDate('2026-11-23')) - ago * 86_400_000));
        const entry = read({ day, from, to });
        if (!entry.ok) return from === to || /skip/.test(entry.refusals[0]?.message ?? '');
        return pieces(entry.value, MADRID).reduce((sum, p) => sum + p.minutes, 0) === entry.value.minutes;
      }),
    );
  });
});
