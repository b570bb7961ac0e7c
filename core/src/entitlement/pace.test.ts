import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { addDays, asLocalDate, daysBetween } from '../time/index.ts';
import type { AllowanceLeft } from './allowance.ts';
import { LAPSES_WITHIN_DAYS, paceOf } from './pace.ts';

const FROM = asLocalDate('2026-01-01');
const left = (granted: number, drawn: number, to: string | null = '2026-12-31'): AllowanceLeft => ({
  ...{
    key: { kind: 'agreement', id: 1 as never },
    unit: 'call-outs',
    granted,
    drawn,
    periodName: 'agreement year',
    from: FROM,
  },
  ...{ to: to === null ? null : asLocalDate(to), usedUpOn: drawn >= granted ? asLocalDate('2026-05-05') : null },
});
const on = (day: string) => asLocalDate(day);

describe('the pace of a counted right', () => {
  it.each([
    ['nothing drawn, far from its end', left(5, 0), false, '2026-06-01', 'lasts', null, 0],
    ['nothing drawn, near its end', left(5, 0), false, '2026-11-15', 'lapses', null, 0],
    ['nothing drawn, near its end, carried over', left(5, 0), true, '2026-11-15', 'lasts', null, 0],
    // 2 in 73 days, a fifth of the year: 10 in all, and the fifth is taken on day 182, counted from 0: 2 July.
    ['twice as fast', left(5, 2), false, '2026-03-14', 'runs out', '2026-07-02', 10],
    ['just right', left(10, 2), false, '2026-03-14', 'lasts', null, 10],
    ['used up', left(5, 5), false, '2026-06-01', 'used up', '2026-05-05', 13],
    ['an open period', left(5, 2, null), false, '2026-03-14', 'runs out', '2026-07-02', null],
  ])('%s', (_, of, carries, day, state, runsOutOn, wholePeriod) => {
    expect(paceOf(of, carries, on(day))).toEqual({ state, runsOutOn, wholePeriod });
  });
  it('runs out exactly where the whole period would take more than is granted', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 60 }),
        fc.nat(60),
        fc.integer({ min: 0, max: 364 }),
        (granted, drawn, gone) => {
          const of = left(granted, drawn);
          const today = addDays(FROM, gone);
          const { state, runsOutOn, wholePeriod } = paceOf(of, false, today);
          expect(state === 'used up').toBe(drawn >= granted);
          if (drawn >= granted) return;
          expect(state === 'runs out').toBe(runsOutOn !== null);
          if (runsOutOn !== null) {
            expect(runsOutOn > today || drawn > 0).toBe(true);
            expect(wholePeriod).toBeGreaterThanOrEqual(granted);
          } else expect(wholePeriod).toBeLessThanOrEqual(granted + 1);
          if (state === 'lapses') expect(daysBetween(today, of.to as never)).toBeLessThanOrEqual(LAPSES_WITHIN_DAYS);
        },
      ),
    );
  });
});
