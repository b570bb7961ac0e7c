import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { ELAPSED_TIME, weekdaysOpen, workingTimeOf } from '../calendars/index.ts';
import { asId, type CalendarId, type PersonId, type ServiceLevelId } from '../ids.ts';
import { asLocalDate, asZone, HOUR, instant, MINUTE, toInstant, type Instant } from '../time/index.ts';
import {
  checkPledge,
  checkPriorities,
  deriveClock,
  leftAt,
  marginOf,
  NO_PLEDGE,
  sayLevel,
  strictestPromises,
  USUAL_PRIORITIES,
  warningsOf,
  type ClockEvent,
  type GivenPromise,
  type ServiceLevel,
  type WarningStep,
} from './index.ts';

const zone = asZone('Europe/Lisbon');
const office = workingTimeOf({ name: 'office', zone, weekly: weekdaysOpen(540, 1020), closed: [], extraOpen: [] });
const calendarId = asId<CalendarId>(1);
const at = (time: string, day = '2026-11-24'): Instant =>
  toInstant(zone, { date: asLocalDate(day), minutes: Number(time.slice(0, 2)) * 60 + Number(time.slice(3)) });
const step = (percent: number, over: Partial<WarningStep> = {}): WarningStep => ({
  ...{ percent, inCharge: true, technician: false, people: [] },
  ...over,
});
const given = (minutes: number, isWorking: boolean, percents = [50, 25, 0]): GivenPromise => ({
  promise: isWorking ? { minutes, measure: 'working', calendarId } : { minutes, measure: 'elapsed' },
  serviceLevelId: asId<ServiceLevelId>(1),
  pauses: ['no access'],
  warnPercent: 25,
  warnings: percents.map((p) => step(p)),
});
const warned = (promise: GivenPromise, events: ClockEvent[], now: Instant, start = at('10:00')) => {
  const time = promise.promise.measure === 'working' ? office : ELAPSED_TIME;
  const clock = deriveClock('restoration', promise, start, events, time, now);
  return warningsOf(clock, events, time).map((w) => [w.step.percent, w.at]);
};

describe('warnings', () => {
  it('come when so much of the promise is left, 0 % at its due instant', () => {
    const all = [
      [50, at('12:00')],
      [25, at('13:00')],
      [0, at('14:00')],
    ];
    expect(warned(given(240, false), [], at('10:00'))).toEqual(all);
    // Known from the beginning, and the same whenever it is asked.
    expect(warned(given(240, false), [], at('16:00'))).toEqual(all);
  });

  it('count in the promise’s own time: of 8 working hours from 15:00 half is left at 11:00 the next day', () => {
    expect(warned(given(480, true), [], at('15:00'), at('15:00'))).toEqual([
      [50, at('11:00', '2026-11-25')],
      [25, at('13:00', '2026-11-25')],
      [0, at('15:00', '2026-11-25')],
    ]);
  });

  it('move with a pause that counts; while it lasts only those from before it are known', () => {
    const paused: ClockEvent = { kind: 'paused', at: at('12:30'), reason: 'no access' };
    expect(warned(given(240, false), [paused], at('13:30'))).toEqual([[50, at('12:00')]]);
    expect(warned(given(240, false), [paused, { kind: 'resumed', at: at('14:30') }], at('14:40'))).toEqual([
      [50, at('12:00')],
      [25, at('15:00')],
      [0, at('16:00')],
    ]);
  });

  it('are over with the clock', () => {
    expect(warned(given(240, false), [{ kind: 'restored', at: at('11:00') }], at('12:00'))).toEqual([]);
    expect(warned(given(240, false), [{ kind: 'restored', at: at('15:00') }], at('16:00'))).toEqual([]);
    expect(warned(given(240, false), [{ kind: 'called off', at: at('11:00') }], at('12:00'))).toEqual([]);
  });

  it('whatever happened: at its instant a clock has exactly so much left, and a millisecond before it more', () => {
    const gap = fc.integer({ min: 1, max: 400 });
    fc.assert(
      fc.property(
        fc.integer({ min: 10, max: 3000 }),
        fc.boolean(),
        fc.integer({ min: 1, max: 90 }),
        fc.array(gap, { maxLength: 6 }),
        (minutes, isWorking, percent, gaps) => {
          let t: number = at('10:00');
          const events = gaps.map((g, i): ClockEvent => {
            t += g * MINUTE;
            return i % 2 === 0
              ? { kind: 'paused', at: instant(t), reason: 'no access' }
              : { kind: 'resumed', at: instant(t) };
          });
          const promise = given(minutes, isWorking, [percent]);
          const time = isWorking ? office : ELAPSED_TIME;
          const clockAt = (now: Instant) =>
            deriveClock(
              'restoration',
              promise,
              at('10:00'),
              events.filter((e) => e.at <= now),
              time,
              now,
            );
          const last = instant(t);
          const found = leftAt(clockAt(last), percent, events, time);
          if (found === null) {
            expect(clockAt(last).state).toBe('paused');
            return;
          }
          const share = (minutes * MINUTE * percent) / 100;
          const reached = clockAt(found);
          expect('left' in reached && reached.left).toBe(share);
          const before = clockAt(instant(found - 1));
          expect('left' in before ? before.left : 0).toBeGreaterThanOrEqual(share);
          // The very instant from which it shows as running short.
          if (reached.state === 'running')
            expect(marginOf({ ...reached, promisedMinutes: minutes, warnPercent: percent })).toBe('short');
        },
      ),
    );
  });

  it('are given with the promise by the service level, and by none where it names nobody', () => {
    const level = (warnings: WarningStep[]): ServiceLevel => ({
      ...{ id: asId<ServiceLevelId>(7), name: 'Cold', pauses: [] },
      targets: { 1: { workaround: { minutes: 60, measure: 'elapsed' } } },
      pledge: { ...NO_PLEDGE, warnings },
    });
    const of = (l: ServiceLevel) => strictestPromises([l], 1, at('10:00'), () => ELAPSED_TIME).workaround?.warnings;
    expect(of(level([step(25)]))).toEqual([step(25)]);
    expect(of(level([]))).toBeUndefined();
  });
});

describe('a pledge with warnings', () => {
  const fields = (over: Partial<typeof NO_PLEDGE>) => {
    const checked = checkPledge({ ...NO_PLEDGE, ...over });
    return checked.ok
      ? checked.value.warnings.map((w) => w.percent)
      : checked.refusals.map((r) => [r.field, r.message]);
  };
  it('is kept with the earliest first', () =>
    expect(fields({ warnings: [step(0), step(50), step(25)] })).toEqual([50, 25, 0]));
  it.each([
    ['above what is left at the start', [step(91)], 'Warn with 0 to 90'],
    ['below nothing', [step(-1)], 'Warn with 0 to 90'],
    ['no whole percent', [step(12.5)], 'Warn with 0 to 90'],
    ['twice at one share', [step(25), step(25, { technician: true })], 'Two warnings come at 25 %'],
    ['told to nobody', [step(25, { inCharge: false })], 'Nobody is told at 25 %'],
  ] as const)('refuses %s', (_, warnings, message) =>
    expect(fields({ warnings })).toContainEqual(['pledge.warnings', expect.stringContaining(message)]),
  );
  it('takes a warning to one person alone', () =>
    expect(fields({ warnings: [step(25, { inCharge: false, people: [asId<PersonId>(4)] })] })).toEqual([25]));
  it.each([0, 10_001])('refuses upkeep in window of %i hundredths of a percent', (target) =>
    expect(fields({ upkeep: { target } })).toEqual([['pledge.upkeep', expect.any(String)]]),
  );
});

describe('priorities', () => {
  const said = (names: readonly string[]) => {
    const checked = checkPriorities(names);
    return checked.ok ? checked.value : checked.refusals[0]?.message;
  };
  it('are named by the provider, four to nine', () => {
    expect(said([...USUAL_PRIORITIES, '  by agreement '])).toEqual([...USUAL_PRIORITIES, 'by agreement']);
    expect(said(['a', 'b', 'c'])).toContain('Name 4 to 9');
    expect(said([...'abcdefghij'])).toContain('Name 4 to 9');
    expect(said(['a', ' ', 'c', 'd'])).toContain('Priority 2 has no name');
    expect(said(['a', 'b', 'c', 'A'])).toContain('Two priorities are called “A”');
  });
});

describe('a service level in sentences', () => {
  it('says each priority, what stops the time, and what is pledged', () => {
    const said = sayLevel(
      {
        pauses: ['no access', 'waiting for parts'],
        targets: {
          1: {
            response: { minutes: 30, measure: 'elapsed' },
            arrival: { minutes: 240, measure: 'elapsed' },
            restoration: { minutes: 540, measure: 'working', calendarId },
          },
          3: { response: { minutes: 480, measure: 'working', calendarId } },
        },
        pledge: {
          ...NO_PLEDGE,
          warnings: [step(50)],
          availability: { target: 9980, calendarId: null },
          upkeep: { target: 9500 },
          tiers: [
            { below: 9500, credit: 500 },
            { below: 9000, credit: 1000 },
          ],
          cap: 1500,
        },
      },
      { calendar: () => 'Lisbon office', priority: (p) => USUAL_PRIORITIES[p - 1] ?? '' },
    );
    expect(said).toEqual([
      'Priority 1, down, stock or patients at risk: you hear who comes within 30 min and somebody is on site within 4 h, around the clock; it is back in use within 9 h, counted in the hours of Lisbon office.',
      'Priority 3, can wait: you hear who comes within 8 h, counted in the hours of Lisbon office.',
      'Time stands still while nobody can let us in or we wait for parts.',
      'Machines are available 99.8 % of the time, around the clock.',
      '95 % of the upkeep visits are done in their windows.',
      'Where fewer than 95 % of a period’s promises are kept, 5 % of its fee is credited; below 90 % it is 10 %; never more than 15 %.',
    ]);
    expect(said.join(' ')).not.toContain('warn');
  });
  it('promises nothing where it promises nothing', () =>
    expect(sayLevel({ pauses: [], targets: {}, pledge: null }, { calendar: () => '', priority: () => '' })).toEqual([
      'Nothing stops the time that is counted.',
    ]));
});

describe('a workaround', () => {
  const promise = given(2 * 60, false, []);
  const clock = (events: ClockEvent[], now = at('13:00')) =>
    deriveClock('workaround', promise, at('10:00'), events, ELAPSED_TIME, now);
  it('keeps its promise when it works for now, or is back in use; restoration runs on', () => {
    const makeshift: ClockEvent = { kind: 'worked around', at: at('11:00') };
    expect(clock([makeshift])).toMatchObject({ state: 'met', left: HOUR });
    expect(clock([{ kind: 'restored', at: at('12:30') }])).toMatchObject({ state: 'missed', over: 30 * MINUTE });
    expect(deriveClock('restoration', promise, at('10:00'), [makeshift], ELAPSED_TIME, at('11:30'))).toMatchObject({
      state: 'running',
      left: 30 * MINUTE,
    });
    expect(deriveClock('response', promise, at('10:00'), [makeshift], ELAPSED_TIME, at('11:30')).state).toBe('running');
  });
});
