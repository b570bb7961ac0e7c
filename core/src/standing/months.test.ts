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
import { closeStanding, daysOfMonth, isOver, monthOf, monthsBetween, periodBefore, piecesOf } from './months.ts';

const d = asLocalDate;
const day = fc.integer({ min: toDayNumber(d('2023-12-01')), max: toDayNumber(d('2026-12-31')) }).map(fromDayNumber);
const period = fc.tuple(day, day).map(([a, b]) => (a < b ? { from: a, to: b } : { from: b, to: a }));
const known = fc.array(fc.record({ isSummed: fc.boolean(), isQuarterSummed: fc.boolean(), isClosed: fc.boolean() }), {
  minLength: 40,
  maxLength: 40,
});
const FIRST = d('2023-12-01');

describe('a period taken apart', () => {
  it('has each of its days once, in quarters and months that were summed or in stretches as long as can be', () => {
    fc.assert(
      fc.property(period, known, (asked, months) => {
        const of = (month: LocalDate) =>
          months[monthsBetween(FIRST, month).length - 1] ?? {
            ...{ isSummed: false, isQuarterSummed: false, isClosed: false },
          };
        const pieces = piecesOf(asked, of);
        const all = [
          ...pieces.sums.map(({ month, months: length }) => {
            expect(length === 3 ? of(month).isQuarterSummed : of(month).isSummed).toBe(true);
            if (length === 3) expect(['01', '04', '07', '10']).toContain(month.slice(5, 7));
            return { from: month, to: addDays(addMonths(month, length), -1) };
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
        // Of no month that is summed more than half is counted.
        for (const piece of pieces.days)
          for (const month of monthsBetween(piece.from, piece.to)) {
            const whole = daysOfMonth(month);
            const [from, to] = [
              whole.from > piece.from ? whole.from : piece.from,
              whole.to < piece.to ? whole.to : piece.to,
            ];
            if (of(month).isSummed)
              expect(2 * (daysBetween(from, to) + 1)).toBeLessThanOrEqual(daysBetween(whole.from, whole.to) + 1);
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
