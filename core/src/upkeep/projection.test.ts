import { describe, expect, it } from 'vitest';
import fc from 'fast-check';
import { workingDaysOf } from '../calendars/index.ts';
import { addDays, asLocalDate, daysBetween, type LocalDate } from '../time/index.ts';
import { aSchedule, type Given } from '../a-schedule.ts';
import {
  nextService,
  projectMeter,
  proposeVisits,
  type LastService,
  type MeterTotal,
  type ServiceCadence,
} from './index.ts';

const d = asLocalDate;
const cycles = { meter: 'cycles', every: 500, spanDays: 90 };
const read = (...told: [string, number][]): MeterTotal[] => told.map(([on, total]) => ({ on: d(on), total }));

describe('a meter’s next service', () => {
  it('is the first day on which the count reaches the target at the average daily use', () => {
    // 300 cycles in 60 days, 5 a day; served at 1,000: 1,500 is reached 40 days after the latest reading at 1,300.
    const readings = read(['2026-01-01', 1000], ['2026-02-15', 1200], ['2026-03-02', 1300]);
    expect(projectMeter(cycles, readings, d('2026-01-01'))).toMatchObject({
      kind: 'projected',
      date: '2026-04-11',
      dailyUse: 5,
      target: 1500,
    });
  });
  it('averages over the readings of the span only, that far from the latest one', () => {
    const readings = read(['2025-06-01', 0], ['2026-01-01', 1000], ['2026-03-02', 1300]);
    expect(projectMeter({ ...cycles, spanDays: 60 }, readings, d('2026-01-01'))).toMatchObject({ dailyUse: 5 });
    expect(projectMeter({ ...cycles, spanDays: 59 }, readings, d('2026-01-01'))).toMatchObject({
      kind: 'unknown',
      reason: expect.stringContaining('fewer than two days') as string,
    });
  });
  it('counts from the reading of the service’s day, else the latest before it', () => {
    const readings = read(['2026-01-01', 1000], ['2026-02-01', 1100], ['2026-03-01', 1200]);
    expect(projectMeter(cycles, readings, d('2026-02-01'))).toMatchObject({ target: 1600 });
    expect(projectMeter(cycles, readings, d('2026-02-27'))).toMatchObject({ target: 1600 });
    expect(projectMeter(cycles, readings, d('2025-01-01'))).toMatchObject({ target: 1500 });
  });
  it('already reached is due on the day of the first reading at or past it', () => {
    const readings = read(['2026-01-01', 0], ['2026-02-01', 499], ['2026-02-09', 500], ['2026-03-01', 900]);
    expect(projectMeter(cycles, readings, d('2026-01-01'))).toMatchObject({ kind: 'reached', date: '2026-02-09' });
  });
  it('without a date says why: never read, standing still', () => {
    expect(projectMeter(cycles, [], d('2026-01-01'))).toMatchObject({
      reason: expect.stringContaining('no reading') as string,
    });
    expect(projectMeter(cycles, read(['2026-01-01', 7], ['2026-01-20', 7]), d('2026-01-01'))).toMatchObject({
      reason: expect.stringContaining('stands still') as string,
    });
    expect(projectMeter(cycles, read(['2026-01-01', 7], ['2026-01-01', 9]), d('2026-01-01'))).toMatchObject({
      kind: 'unknown',
    });
  });
  it('agrees with counting day by day', () => {
    const steps = fc.array(fc.record({ days: fc.integer({ min: 1, max: 30 }), use: fc.integer({ min: 0, max: 60 }) }), {
      minLength: 1,
      maxLength: 12,
    });
    fc.assert(
      fc.property(steps, fc.integer({ min: 1, max: 900 }), (told, every) => {
        let [on, total] = [d('2026-01-01'), 0];
        const readings: MeterTotal[] = [{ on, total }];
        for (const { days, use } of told) readings.push({ on: (on = addDays(on, days)), total: (total += use) });
        const projection = projectMeter({ meter: 'm', every, spanDays: 730 }, readings, d('2026-01-01'));
        const reached = readings.find((r) => r.total >= every);
        if (reached) return void expect(projection).toMatchObject({ kind: 'reached', date: reached.on });
        if (total === 0) return void expect(projection.kind).toBe('unknown');
        // Day by day in whole numbers: total/days of use each day, exactly.
        const span = daysBetween(d('2026-01-01'), on);
        let day = 0;
        while (total * span + day * total < every * span) day += 1;
        // More than a century away no date is told.
        if (day > 36_525) return void expect(projection.kind).toBe('unknown');
        expect(projection).toMatchObject({ date: addDays(on, day) });
        const band = projection.kind === 'projected' ? projection.band : null;
        if (band) expect(band.from <= addDays(on, day) && (band.to === null || band.to >= addDays(on, day))).toBe(true);
      }),
    );
  });
  it('has no band from steady use but the day itself, and none from too few readings', () => {
    const steady = read(['2026-01-01', 0], ['2026-01-11', 50], ['2026-01-21', 100], ['2026-01-31', 150]);
    expect(projectMeter(cycles, steady, d('2026-01-01'))).toMatchObject({
      date: '2026-04-11',
      band: { from: '2026-04-11', to: '2026-04-11' },
    });
    expect(projectMeter(cycles, steady.slice(0, 2), d('2026-01-01'))).toMatchObject({ band: null });
  });
});

describe('schedules that count from the last service', () => {
  const after: ServiceCadence = {
    kind: 'since service',
    since: d('2026-01-10'),
    time: { count: 12, unit: 'month' },
    meter: null,
  };
  const both: ServiceCadence = { ...after, time: { count: 3, unit: 'month' }, meter: cycles };
  const propose = (cadence: ServiceCadence, last: LastService | null, over: Given = {}, to = '2028-01-01') =>
    proposeVisits(
      aSchedule(workingDaysOf(null), {
        cadence,
        last,
        lead: 0,
        convention: 'none',
        agreementTerm: { from: d('2026-01-01'), to: null },
        ...over,
      }),
      d(to),
    );
  const done = (completedOn: LocalDate | null, state: LastService['state'] = 'raised'): LastService => ({
    part: 3,
    due: d('2026-05-20'),
    state,
    completedOn,
  });

  it('are due the interval after the last completion, with a running number', () => {
    expect(propose(after, null).visits).toMatchObject([{ nominal: '2026-01-10', part: 1, due: '2027-01-10' }]);
    expect(propose(after, done(d('2026-06-30'))).visits).toMatchObject([{ part: 4, due: '2027-06-30' }]);
  });
  it('have one open visit at a time; left out, the next counts from its due date', () => {
    expect(propose(after, done(null)).nothing).toMatchObject({ kind: 'waits', code: 'open visit' });
    expect(propose(after, done(null, 'left out')).visits).toMatchObject([{ part: 4, due: '2027-05-20' }]);
  });
  it('whichever comes first; a tie counts as time, no date by meter leaves the time', () => {
    const fast = read(['2026-01-10', 0], ['2026-02-09', 300]);
    expect(nextService(both, fast, d('2026-01-10'))).toMatchObject({ date: '2026-03-01', by: 'meter' });
    const tie = read(['2026-01-10', 0], ['2026-02-24', 250]);
    expect(nextService(both, tie, d('2026-01-10'))).toMatchObject({ date: '2026-04-10', by: 'time' });
    expect(nextService(both, [], d('2026-01-10'))).toMatchObject({ date: '2026-04-10', by: 'time' });
  });
  it('by a meter alone without readings need action, and say which meter', () => {
    expect(propose({ ...after, time: null, meter: cycles }, null).nothing).toMatchObject({
      kind: 'needs action',
      code: 'no date',
      reason: expect.stringContaining('cycles') as string,
    });
  });
  it('due before the term began are due on its first day', () => {
    const begun = { from: d('2027-03-01'), to: null };
    expect(propose(after, null, { agreementTerm: begun }).visits).toMatchObject([{ part: 1, due: '2027-03-01' }]);
  });
  it('exist only inside the term', () => {
    expect(
      propose(after, null, { agreementTerm: { from: d('2026-01-01'), to: d('2026-12-31') } }).nothing,
    ).toMatchObject({ code: 'term over' });
  });
  it('moved by a person keep window and number', () => {
    const deviations = [
      { nominal: d('2026-01-10'), part: 1, added: false, movedTo: d('2027-01-14'), agreed: false, skipped: null },
    ];
    expect(propose(after, null, { deviations }).visits).toMatchObject([
      { part: 1, due: '2027-01-10', planned: '2027-01-14', changed: 'moved' },
    ]);
  });
});
