import { describe, expect, it } from 'vitest';
import { asId, type PersonId } from '../ids.ts';
import { asLocalDate, instant, MINUTE } from '../time/index.ts';
import { expectedOn, riskOf, type PersonDay, type Progress, type Roads, type Spot } from './index.ts';

const BEGIN = Date.UTC(2026, 10, 24);
const at = (minute: number) => instant(BEGIN + minute * MINUTE);
const minuteOf = (i: number): number => (i - BEGIN) / MINUTE;
const spot = (key: string): Spot => ({ key, at: null });
const ROADS: Roads = {
  rules: { detour: 1, bands: [], fixedMinutes: 0 },
  known: (from, to) => Math.abs(Number(from) - Number(to)),
};
/** Three of an hour each, twenty minutes apart, with ten to spare between them. */
const day: PersonDay = {
  ...{ personId: asId<PersonId>(1), date: asLocalDate('2026-11-24'), start: spot('0') },
  ...{ open: [{ from: at(480), to: at(960) }], absences: [], skills: [] },
  taken: [500, 590, 680].map((m, i) => ({
    id: i + 1,
    span: { from: at(m), to: at(m + 60) },
    spot: spot(String((i + 1) * 20)),
  })),
};
const expected = (now: number, ...progress: Progress[]) =>
  expectedOn(day, (id) => progress[id - 1] ?? 'to come', at(now), ROADS).map((e) => [
    e.id,
    minuteOf(e.span.from),
    minuteOf(e.span.to),
    e.because,
  ]);

// Source: domain-work, Rota, Forecast. Reckoned by hand.
describe('what is expected of a day', () => {
  it('is what was planned while nothing is late', () => {
    expect(expected(480)).toEqual([
      [1, 500, 560, null],
      [2, 590, 650, null],
      [3, 680, 740, null],
    ]);
    expect(expected(600, 'over', 'on site')).toEqual([
      [2, 590, 650, null],
      [3, 680, 740, null],
    ]);
  });

  it('waits for what takes longer than planned, and for the way from there', () => {
    // Still there at 600 where it should have ended at 560: the next begins at 620, the one after at 700.
    expect(expected(600, 'on site')).toEqual([
      [1, 500, 600, null],
      [2, 620, 680, 'still at the one before'],
      [3, 700, 760, 'still at the one before'],
    ]);
    // The spare time between takes up a little of it.
    expect(expected(565, 'on site')[1]).toEqual([2, 590, 650, null]);
  });

  it('is now at the earliest for whoever should be there and is not', () => {
    expect(expected(530)).toEqual([
      [1, 530, 590, 'not there yet'],
      [2, 610, 670, 'not there yet'],
      [3, 690, 750, 'not there yet'],
    ]);
  });

  it('names a promise it breaks with the first cause, and one that nobody is planned for', () => {
    const [, second] = expectedOn(day, (id) => (id === 1 ? 'on site' : 'to come'), at(600), ROADS);
    const arrival = { dueAt: at(610), stopsAt: 'arrival' } as const;
    expect(riskOf(arrival, second ?? null)).toEqual({ minutes: 10, cause: 'they are still at the one before' });
    expect(riskOf({ dueAt: at(680), stopsAt: 'end' }, second ?? null)).toBeNull();
    const [first] = expectedOn(day, () => 'to come', at(480), ROADS);
    expect(riskOf({ dueAt: at(490), stopsAt: 'arrival' }, first ?? null)?.cause).toBe('it is planned too late');
    expect(riskOf(arrival, null)).toEqual({ minutes: 0, cause: 'nobody is planned for it' });
  });
});
