import fc from 'fast-check';
import { expect, it } from 'vitest';
import { countOn, totalRun, type Counted, type MeterReading } from './meters.ts';
import { HOUR, instant, MINUTE } from './time/index.ts';

const at = (minutes: number) => instant(Date.UTC(2026, 10, 24) + minutes * MINUTE);

it('counts everything over restarts, in any batches, and reads no more than once an hour but where it begins anew', () => {
  const step = fc.record({
    minutes: fc.integer({ min: 1, max: 90 }),
    more: fc.integer({ min: 0, max: 50 }),
    reset: fc.boolean(),
    cut: fc.boolean(),
  });
  fc.assert(
    fc.property(fc.array(step, { minLength: 1, maxLength: 40 }), (steps) => {
      // What really ran, and what the counter shows of it.
      let [minute, shown, ran] = [0, 100, 0];
      const counts: (MeterReading & { cut: boolean })[] = [{ at: at(0), value: 100, cut: true }];
      for (const { minutes, more, reset, cut } of steps) {
        minute += minutes;
        // A fall nobody can see is none: it comes back no higher than it was.
        const isReset = reset && more < shown;
        shown = isReset ? more : shown + more;
        ran += more;
        counts.push({ at: at(minute), value: shown, cut });
      }
      const held: Counted[] = [];
      let before: MeterReading | null = null;
      for (let i = 0; i < counts.length;) {
        const end = counts.findIndex((c, n) => n >= i && c.cut) + 1 || counts.length;
        const batch = counts.slice(i, end);
        const last = held.at(-1) ?? null;
        held.push(
          ...countOn(
            last,
            before,
            batch.filter((c) => last === null || c.at > last.at),
          ).readings,
        );
        before = batch.at(-1) ?? before;
        i = end;
      }
      const pending = (counts.at(-1) as MeterReading).value - (held.at(-1) as MeterReading).value;
      expect(totalRun(held) + pending).toBe(ran);
      for (const [i, reading] of held.entries()) {
        const previous = held[i - 1];
        if (previous && !reading.anew && !held[i + 1]?.anew)
          expect(reading.at - previous.at).toBeGreaterThanOrEqual(HOUR);
      }
    }),
    { numRuns: 500 },
  );
});

it('that begins at 0 by itself where that is declared loses nothing; a fall by less is a reset', () => {
  const WRAP = 1000;
  const step = fc.record({ minutes: fc.integer({ min: 1, max: 90 }), more: fc.integer({ min: 0, max: 400 }) });
  fc.assert(
    fc.property(fc.array(step, { minLength: 1, maxLength: 40 }), fc.nat(3), (steps, size) => {
      let [minute, ran] = [0, 900];
      const counts = [{ at: at(0), value: 900 }];
      for (const { minutes, more } of steps) {
        minute += minutes;
        ran += more;
        counts.push({ at: at(minute), value: ran % WRAP });
      }
      // The first is the base.
      const held: Counted[] = [...countOn(null, null, counts.slice(0, 1), WRAP).readings];
      for (let i = 1; i < counts.length; i += size + 1) {
        const last = held.at(-1) ?? null;
        const batch = counts.slice(i, i + size + 1).filter((c) => last === null || c.at > last.at);
        held.push(...countOn(last, counts[i - 1] ?? null, batch, WRAP).readings);
      }
      const pending = (counts.at(-1) as MeterReading).value - (held.at(-1) as MeterReading).value;
      expect(totalRun(held) + pending).toBe(ran - 900);
    }),
    { numRuns: 500 },
  );
  const before = { at: at(0), value: 400 };
  const reset = countOn(before, before, [{ at: at(120), value: 20 }], WRAP).readings;
  expect(totalRun([{ ...before, anew: false }, ...reset])).toBe(20);
});

it('takes a new device as a base, and leaves to people what a lower one means', () => {
  const last = { at: at(0), value: 500 };
  expect(countOn(last, null, [{ at: at(120), value: 20 }])).toEqual({
    readings: [],
    lower: { at: at(120), value: 20 },
  });
  expect(countOn(null, null, [{ at: at(120), value: 20 }])).toEqual({
    readings: [{ at: at(120), value: 20, anew: false }],
    lower: null,
  });
  expect(
    countOn(last, null, [
      { at: at(90), value: NaN },
      { at: at(95), value: -3 },
    ]),
  ).toEqual({ readings: [], lower: null });
});
