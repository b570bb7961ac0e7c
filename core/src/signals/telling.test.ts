// What is told of alerts, when they chatter and flood, and rules made of others: hand-worked, and against counting instant by instant.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { instant, MINUTE, type Instant } from '../time/index.ts';
import { activeParts, checkCircles } from './combination.ts';
import { advance, watchedFrom } from './watching.ts';
import { CHATTERING, crowdedIn, FLOOD, toldFrom, type ActiveSpan } from './telling.ts';

const at = (minute: number): Instant => instant(minute * MINUTE);
const span = (from: number, to: number | null): ActiveSpan => ({ from: at(from), to: to === null ? null : at(to) });
const minutes = (spans: readonly { from: Instant; to: Instant }[]) =>
  spans.map((s) => [s.from, s.to].map((t) => t / MINUTE));

describe('an alert is told', () => {
  it.each<[string, ActiveSpan, ActiveSpan[], number | null]>([
    ['at once, where nothing holds it', span(5, 9), [], 5],
    ['when its shelf ends, if it is still active', span(5, null), [span(0, 8)], 8],
    ['never, where it is gone by then', span(5, 8), [span(0, 8)], null],
    ['never, while another suppresses it', span(5, null), [span(5, null)], null],
    ['all the same, where the shelf came after it was told', span(5, null), [span(6, 20)], 5],
    ['after all that holds it, one after the other', span(5, null), [span(7, 12), span(1, 7), span(12, 14)], 14],
  ])('%s', (_, alert, holds, expected) => {
    expect(toldFrom(alert, holds)).toBe(expected === null ? null : at(expected));
  });

  it('at the first instant of it that nothing holds', () => {
    const edge = fc.integer({ min: 0, max: 30 });
    const some = fc
      .tuple(edge, fc.option(fc.integer({ min: 1, max: 15 })))
      .map(([f, n]) => span(f, n === null ? null : f + n));
    fc.assert(
      fc.property(some, fc.array(some, { maxLength: 5 }), (alert, holds) => {
        const within = ({ from, to }: ActiveSpan, t: Instant): boolean => from <= t && (to === null || t < to);
        const first = Array.from({ length: 80 }, (_, n) => at(n)).find(
          (t) => within(alert, t) && !holds.some((h) => within(h, t)),
        );
        expect(toldFrom(alert, holds)).toBe(first ?? null);
      }),
    );
  });
});

describe('crowding', () => {
  it('chatters from the third start within a minute until a whole minute held none', () => {
    const seconds = (...all: number[]): Instant[] => all.map((s) => instant(s * 1000));
    const found = (starts: Instant[]) => crowdedIn(starts, CHATTERING).map((s) => [s.from / 1000, s.to / 1000]);
    expect(found(seconds(0, 20, 40, 90))).toEqual([[40, 150]]);
    // The first falls out at the very instant of the third: (t − 60 s, t].
    expect(found(seconds(0, 30, 60))).toEqual([]);
    expect(found(seconds(0, 30, 59, 119, 120))).toEqual([[59, 180]]);
    expect(found(seconds(0, 20, 40, 100, 101, 102))).toEqual([[40, 162]]);
    expect(found(seconds(0, 20, 40, 101, 102, 103))).toEqual([
      [40, 100],
      [103, 163],
    ]);
  });

  it('floods with more than ten starts within ten minutes, until fewer than five', () => {
    const starts = Array.from({ length: 11 }, (_, n) => at(n * 0.5));
    // The eleventh comes at 5; five are left until that of 3.0 falls out at 13.
    expect(minutes(crowdedIn(starts, FLOOD))).toEqual([[5, 13]]);
    expect(crowdedIn(starts.slice(0, 10), FLOOD)).toEqual([]);
  });

  it('is what counting them at each instant says', () => {
    const starts = fc
      .array(fc.integer({ min: 0, max: 60 }), { maxLength: 40 })
      .map((all) => all.toSorted((a, b) => a - b).map(at));
    const crowding = fc.constantFrom(
      { begins: 3, ends: 1, spanMs: 4 * MINUTE },
      { begins: 5, ends: 3, spanMs: 8 * MINUTE },
      { begins: 2, ends: 2, spanMs: MINUTE },
    );
    fc.assert(
      fc.property(starts, crowding, (all, of) => {
        const counted: number[][] = [];
        let open: number | null = null;
        for (let m = 0; m <= 80; m += 1) {
          const n = all.filter((s) => s > at(m) - of.spanMs && s <= at(m)).length;
          if (open === null && n >= of.begins) open = m;
          else if (open !== null && n < of.ends) {
            counted.push([open, m]);
            open = null;
          }
        }
        expect(minutes(crowdedIn(all, of))).toEqual(counted);
      }),
      { numRuns: 500 },
    );
  });
});

describe('a rule made of others', () => {
  const said = (by: 'all' | 'any', parts: readonly (readonly ActiveSpan[])[], [on, off]: readonly [number, number]) => {
    const condition = { kind: 'parts', by, of: parts.map((_, n) => String(n)) } as const;
    const rule = { condition, delays: { onMs: on * MINUTE, offMs: off * MINUTE }, holdMs: 1 };
    return advance(rule, watchedFrom(at(0)), activeParts(parts), at(30)).happened.map((t) =>
      t.kind === 'started' ? `started ${t.from / MINUTE}` : `ended ${t.at / MINUTE}`,
    );
  };

  it('is active while all or any of them are, after delays of its own', () => {
    const parts = [[span(1, 10)], [span(4, 6), span(8, null)]];
    expect(said('all', parts, [0, 0])).toEqual(['started 4', 'ended 6', 'started 8', 'ended 10']);
    expect(said('any', parts, [0, 0])).toEqual(['started 1']);
    // Two minutes of both, and both end at the instant at which the delay would: that counts first.
    expect(said('all', parts, [2, 0])).toEqual([]);
    expect(said('all', parts, [1, 3])).toEqual(['started 5', 'ended 13']);
    expect(said('all', [], [0, 0])).toEqual([]);
  });

  it('reads how many of its parts are active, as counting them at each instant says', () => {
    const edge = fc.integer({ min: 0, max: 30 });
    const alerts = fc
      .uniqueArray(edge, { maxLength: 8 })
      .map((all) => all.toSorted((a, b) => a - b))
      // One after the other, the last may go on: as a rule's alerts at one machine do.
      .map((all) => all.flatMap((from, n) => (n % 2 === 0 ? [span(from, all[n + 1] ?? null)] : [])));
    fc.assert(
      fc.property(fc.array(alerts, { maxLength: 4 }), (parts) => {
        const read = activeParts(parts);
        for (let m = 0; m <= 40; m += 1) {
          const active = parts.filter((own) => own.some((s) => s.from <= at(m) && (s.to === null || at(m) < s.to)));
          expect(read.findLast((r) => r.at <= at(m))?.value ?? 0).toBe(active.length);
        }
        // Each reading says something new, at an instant of its own.
        expect(read.filter((r, n) => r.value === (read[n - 1]?.value ?? 0) || r.at === read[n - 1]?.at)).toEqual([]);
      }),
    );
  });

  it('may not refer to itself, at once or over others', () => {
    const of = (...all: [number, number[]][]) => new Map(all);
    expect(checkCircles(of([1, [2]], [2, [3]]), 1).ok).toBe(true);
    expect(checkCircles(of([1, [2, 3]], [2, [4]], [3, [4]]), 1).ok).toBe(true);
    expect(checkCircles(of([1, [1]]), 1)).toMatchObject({ refusals: [{ code: 'conflict' }] });
    expect(checkCircles(of([1, [2]], [2, [3]], [3, [1]]), 1).ok).toBe(false);
    // A circle of others is theirs.
    expect(checkCircles(of([1, [2]], [2, [3]], [3, [2]]), 1).ok).toBe(true);
  });
});
