// Periods taken apart into months and days, and months that are closed one after the other.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  addDays,
  addMonths,
  asLocalDate,
  daysBetween,
  fromDayNumber,
  toDayNumber,
  type LocalDate,
} from '../time/index.ts';
import {
  closeStanding,
  daysOfMonth,
  daysOfThirds,
  isOver,
  monthOf,
  monthsBetween,
  periodBefore,
  piecesOf,
  thirdOf,
  thirdsOver,
  type MonthKnown,
  type Thirds,
} from './months.ts';

const d = asLocalDate;
const day = fc.integer({ min: toDayNumber(d('2023-12-01')), max: toDayNumber(d('2026-12-31')) }).map(fromDayNumber);
const period = fc.tuple(day, day).map(([a, b]) => (a < b ? { from: a, to: b } : { from: b, to: a }));
const known = fc.array(
  fc.record({
    thirds: fc.constantFrom<Thirds[]>(0, 1, 2, 3, 3),
    ...{ isQuarterSummed: fc.boolean(), isClosed: fc.boolean() },
  }),
  { minLength: 40, maxLength: 40 },
);
const FIRST = d('2023-12-01');
const eachDay = ({ from, to }: { from: LocalDate; to: LocalDate }): LocalDate[] =>
  Array.from({ length: daysBetween(from, to) + 1 }, (_, i) => addDays(from, i));

describe('a period taken apart', () => {
  it('has each of its days once, in quarters and thirds that were summed or in stretches as long as can be', () => {
    fc.assert(
      fc.property(period, known, (asked, months) => {
        const of = (month: LocalDate): MonthKnown =>
          months[monthsBetween(FIRST, month).length - 1] ?? { thirds: 0, isQuarterSummed: false, isClosed: false };
        const pieces = piecesOf(asked, of);
        const all = [
          ...pieces.sums.map((sum) => {
            const { month } = sum;
            if (sum.months === 1) {
              expect(sum.upTo).toBeLessThanOrEqual(of(month).thirds);
              expect(sum.after).toBeLessThan(sum.upTo);
              const from = addDays(month, 10 * sum.after);
              return { from, to: sum.upTo === 3 ? daysOfMonth(month).to : addDays(month, 10 * sum.upTo - 1) };
            }
            expect([sum.after, sum.upTo, of(month).isQuarterSummed]).toEqual([0, 3, true]);
            expect(['01', '04', '07', '10']).toContain(month.slice(5, 7));
            return { from: month, to: addDays(addMonths(month, 3), -1) };
          }),
          ...pieces.days.filter((p) => !p.isTakenOff),
        ];
        // Day by day: once what was asked for, and nothing else.
        const times = new Map<LocalDate, number>();
        const add = ({ from, to }: { from: LocalDate; to: LocalDate }, n: number): void => {
          for (let date = from; date <= to; date = addDays(date, 1)) times.set(date, (times.get(date) ?? 0) + n);
        };
        for (const piece of all) add(piece, 1);
        for (const piece of pieces.days.filter((p) => p.isTakenOff)) add(piece, -1);
        const counted = [...times].filter(([, n]) => n !== 0).sort(([a], [b]) => (a < b ? -1 : 1));
        expect(counted.every(([, n]) => n === 1)).toBe(true);
        expect([counted.length, counted[0]?.[0], counted.at(-1)?.[0]]).toEqual([
          daysBetween(asked.from, asked.to) + 1,
          ...[asked.from, asked.to],
        ]);
        // Of each month as few days are counted as any choice of its thirds would leave.
        const inQuarters = pieces.sums.flatMap((q) =>
          q.months === 3 ? [0, 1, 2].map((n) => addMonths(q.month, n)) : [],
        );
        for (const month of monthsBetween(asked.from, asked.to)) {
          if (inQuarters.includes(month)) continue;
          const ofMonth = eachDay(daysOfMonth(month));
          const isAsked = (date: LocalDate): boolean => asked.from <= date && date <= asked.to;
          const fewest = Math.min(
            ...[0, 1, 2, 3].flatMap((after) =>
              [0, 1, 2, 3]
                .filter((upTo) => upTo === after || (after < upTo && upTo <= of(month).thirds))
                .map((upTo) => {
                  const isSummed = (date: LocalDate): boolean => after < thirdOf(date) && thirdOf(date) <= upTo;
                  return ofMonth.filter((date) => isSummed(date) !== isAsked(date)).length;
                }),
            ),
          );
          const left = ofMonth.filter((date) => pieces.days.some((p) => p.from <= date && date <= p.to)).length;
          expect([month, left]).toEqual([month, fewest]);
        }
        for (const { from, to, isClosed } of pieces.days)
          for (const month of monthsBetween(from, to)) expect(of(month).isClosed).toBe(isClosed);
        pieces.days.slice(1).forEach((piece, i) => {
          const last = pieces.days[i] as typeof piece;
          expect(
            piece.from > addDays(last.to, 1) ||
              piece.isClosed !== last.isClosed ||
              piece.isTakenOff !== last.isTakenOff,
          ).toBe(true);
        });
      }),
    );
  });

  it('in thirds: each has its days, from the beginning, and is over two days after its last', () => {
    fc.assert(
      fc.property(day, day, (date, today) => {
        const month = monthOf(date);
        const over = thirdsOver(month, today);
        for (const n of [1, 2, 3] as const) {
          const { from, to } = daysOfThirds(month, n);
          expect([from, from <= date && date <= to]).toEqual([month, thirdOf(date) <= n]);
          expect(over >= n).toBe(daysBetween(to, today) >= 2);
        }
        expect(daysOfThirds(month, 3)).toEqual(daysOfMonth(month));
      }),
    );
  });

  it('is compared with as many days before it, or as many months', () => {
    fc.assert(
      fc.property(period, (asked) => {
        const before = periodBefore(asked);
        expect(addDays(before.to, 1)).toBe(asked.from);
        const isWhole = asked.from === monthOf(asked.from) && asked.to === daysOfMonth(monthOf(asked.to)).to;
        if (isWhole)
          expect(monthsBetween(before.from, before.to).length).toBe(monthsBetween(asked.from, asked.to).length);
        else expect(daysBetween(before.from, before.to)).toBe(daysBetween(asked.from, asked.to));
      }),
    );
    expect(periodBefore({ from: d('2026-03-01'), to: d('2026-03-31') })).toEqual({
      from: '2026-02-01',
      to: '2026-02-28',
    });
    expect(periodBefore({ from: d('2026-03-02'), to: d('2026-03-31') })).toEqual({
      from: '2026-01-31',
      to: '2026-03-01',
    });
  });
});

describe('closing', () => {
  const october = d('2026-10-01');
  const asked = { lastClosed: d('2026-09-01'), first: d('2026-01-01'), today: d('2026-11-24'), open: 0, reason: '' };
  it.each([
    ['the next month', october, {}, true],
    ['one that is closed', d('2026-09-01'), {}, 'conflict'],
    ['one after the next', d('2026-11-01'), {}, 'out-of-order'],
    ['the first before anything is closed', d('2026-01-01'), { lastClosed: null }, true],
    ['another than the first', october, { lastClosed: null }, 'out-of-order'],
    ['a month that goes on', october, { today: d('2026-10-31') }, 'not-ready'],
    ['one that is not over everywhere', october, { today: d('2026-11-01') }, 'not-ready'],
    ['one that is over everywhere', october, { today: d('2026-11-02') }, true],
    ['one with something open', october, { open: 2 }, 'missing'],
    ['one with something open, and why', october, { open: 2, reason: 'told the customer' }, true],
  ] as const)('%s', (_, month, over, says) => {
    const answer = closeStanding(month, { ...asked, ...over });
    expect(answer.ok || answer.refusals[0]?.code).toBe(says);
  });

  it('takes every month once, in order, whatever is asked', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 0, max: 14 }), { maxLength: 60 }), (tries) => {
        let lastClosed: LocalDate | null = null;
        const closed: LocalDate[] = [];
        for (const n of tries) {
          const month = addMonths(d('2025-10-01'), n);
          const answer = closeStanding(month, { ...asked, first: d('2025-10-01'), lastClosed });
          if (!answer.ok) continue;
          lastClosed = month;
          closed.push(month);
        }
        expect(closed).toEqual(closed.map((_, i) => addMonths(d('2025-10-01'), i)));
        expect(closed.every((m) => isOver(m, asked.today))).toBe(true);
      }),
    );
  });
});
