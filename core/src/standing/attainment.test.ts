import { describe, expect, it } from 'vitest';
import { ELAPSED_TIME, weekdaysOpen, workingTimeOf } from '../calendars/index.ts';
import {
  attainmentOf,
  availabilityOf,
  downtimeWithin,
  attainmentShare,
  complianceShare,
  inWindow,
  upkeepCompliance,
  type CountedClock,
  type CountedVisit,
  type Period,
} from './index.ts';
import { asLocalDate, asZone, instant, localDateAt } from '../time/index.ts';

const d = asLocalDate;
const period: Period = { from: d('2026-10-01'), to: d('2026-11-01') };
const clock = (state: CountedClock['state'], due: string | null, zone = 'Europe/Lisbon'): CountedClock => {
  const dueAt = due === null ? null : instant(Date.parse(due));
  return { state, dueAt, dueOn: dueAt && localDateAt(asZone(zone), dueAt) };
};

describe('attainment', () => {
  it('counts a clock in the period that holds its due instant', () => {
    const clocks = [
      clock('met', '2026-10-05T10:00Z'),
      clock('met', '2026-11-02T10:00Z'),
      clock('missed', '2026-10-31T10:00Z'),
      clock('void', '2026-10-07T10:00Z'),
      clock('paused', null),
    ];
    expect(attainmentOf(clocks, period, instant(Date.parse('2026-12-01T00:00Z')))).toEqual({ met: 1, missed: 1 });
  });
  it('counts by the day at the place, wherever it is read', () => {
    const late = (zone: string) => [clock('met', '2026-10-31T23:30Z', zone)];
    const now = instant(Date.parse('2026-12-01T00:00Z'));
    expect(attainmentOf(late('Europe/Lisbon'), period, now).met).toBe(1);
    expect(attainmentOf(late('Europe/Madrid'), period, now).met).toBe(0);
  });
  it('takes an open clock as missed once its due instant is past, and not before', () => {
    const open = [clock('running', '2026-10-20T10:00Z')];
    expect(attainmentOf(open, period, instant(Date.parse('2026-10-20T10:00Z')))).toEqual({ met: 0, missed: 0 });
    expect(attainmentOf(open, period, instant(Date.parse('2026-10-20T10:01Z')))).toEqual({ met: 0, missed: 1 });
  });
  it('is no promise fell due, not 100 %, without clocks', () => {
    expect(attainmentShare({ met: 0, missed: 0 })).toBeNull();
    expect(attainmentShare({ met: 5, missed: 2 })).toBeCloseTo(5 / 7);
  });
});

// EN 15341: share of preventive work done on time.
describe('upkeep compliance', () => {
  const visit = (to: string, done: string | null, state: CountedVisit['state'] = 'raised'): CountedVisit => ({
    windowFrom: d('2026-10-01'),
    windowTo: d(to),
    completedOn: done === null ? null : d(done),
    state,
  });
  it('takes both ends of the window as in time', () => {
    expect([
      inWindow(visit('2026-10-10', '2026-10-10')),
      inWindow(visit('2026-10-10', '2026-10-11')),
      inWindow(visit('2026-10-10', '2026-10-01')),
      inWindow(visit('2026-10-10', '2026-09-30')),
      inWindow(visit('2026-10-10', null)),
    ]).toEqual([true, false, true, false, false]);
  });
  it('counts windows that ended in the period; declined are listed, absorbed are not counted', () => {
    const visits = [
      visit('2026-10-10', '2026-10-09'),
      visit('2026-10-12', null),
      visit('2026-10-31', '2026-11-02'),
      visit('2026-11-01', '2026-10-30'),
      visit('2026-10-15', null, 'declined'),
      visit('2026-10-15', null, 'absorbed'),
    ];
    expect(upkeepCompliance(visits, period, d('2026-12-01'))).toEqual({ owed: 3, inWindow: 1, declined: 1 });
    expect(upkeepCompliance(visits, period, d('2026-10-12'))).toEqual({ owed: 1, inWindow: 1, declined: 0 });
    expect([
      complianceShare({ owed: 0, inWindow: 0, declined: 3 }),
      complianceShare({ owed: 4, inWindow: 2, declined: 0 }),
    ]).toEqual([null, 0.5]);
  });
});

describe('availability', () => {
  const at = (text: string) => instant(Date.parse(text));
  const [from, to] = [at('2026-10-01T00:00Z'), at('2026-11-01T00:00Z')];
  const HOUR = 3_600_000;

  it('counts downtime inside the period once, however outages overlap; what is still down counts to its end', () => {
    const outages = [
      { from: at('2026-09-30T20:00Z'), to: at('2026-10-01T02:00Z') },
      { from: at('2026-10-05T10:00Z'), to: at('2026-10-05T14:00Z') },
      { from: at('2026-10-05T12:00Z'), to: at('2026-10-05T16:00Z') },
      { from: at('2026-10-05T11:00Z'), to: at('2026-10-05T11:30Z') },
      { from: at('2026-10-31T21:00Z'), to: null },
    ];
    expect(downtimeWithin(outages, ELAPSED_TIME, from, to)).toBe((2 + 6 + 3) * HOUR);
  });

  it('counts only agreed service time', () => {
    const office = workingTimeOf({
      name: 'Office hours',
      zone: asZone('UTC'),
      weekly: weekdaysOpen(9 * 60, 17 * 60),
      closed: [],
      extraOpen: [],
    });
    // Monday 5 October 16:00 to Tuesday 10:00: one hour of each day.
    const outages = [{ from: at('2026-10-05T16:00Z'), to: at('2026-10-06T10:00Z') }];
    expect(downtimeWithin(outages, office, from, to)).toBe(2 * HOUR);
  });

  // 99.9 % of a year of 365 days leaves 8 h 45.6 min (computed: 8,760 h × 0.001).
  it('99.9 % of a year is 8 h 45.6 min of downtime', () => {
    const year = 365 * 24 * HOUR;
    expect(availabilityOf(1, year, (8 * 60 + 45.6) * 60_000)).toBeCloseTo(0.999, 12);
  });

  // IEC 60050-192: availability = MTBF / (MTBF + MTTR). Three failures of 2 h in 300 h: MTBF 98 h, MTTR 2 h.
  it('agrees with MTBF / (MTBF + MTTR)', () =>
    expect(availabilityOf(1, 300 * HOUR, 6 * HOUR)).toBeCloseTo(98 / 100, 12));

  it('is over all machines alike, and nothing without service time', () => {
    expect(availabilityOf(4, 100 * HOUR, 8 * HOUR)).toBeCloseTo(0.98, 12);
    expect(availabilityOf(0, 100 * HOUR, 0)).toBeNull();
  });
});
