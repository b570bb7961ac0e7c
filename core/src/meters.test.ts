// Meters: random readings, honest and mistyped, replaced and reset, beside a plain model that keeps every run of the counter.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { LOWER_MEANINGS, planReading, totalRun, type LowerMeans, type MeterReading } from './meters.ts';
import { instant, type Instant } from './time/index.ts';

const NOW = instant(1_800_000_000_000);
const at = (hour: number): Instant => instant(NOW - (1000 - hour) * 3_600_000);
const read = (hour: number, value: number): MeterReading => ({ at: at(hour), value });
const codeOf = (plan: ReturnType<typeof planReading>): string =>
  plan.ok ? plan.value.kind : (plan.refusals[0]?.field ?? '');

describe('a reading', () => {
  it.each([
    [NaN, 'value'],
    [-1, 'value'],
    [Infinity, 'value'],
  ])('of %d is refused at its value', (value, field) =>
    expect(codeOf(planReading([], read(1, value), NOW, null))).toBe(field),
  );
  it('in the future, or before the last one, is refused at its time', () => {
    expect(codeOf(planReading([], { at: instant(NOW + 1), value: 1 }, NOW, null))).toBe('at');
    expect(codeOf(planReading([read(5, 1)], read(4, 2), NOW, null))).toBe('at');
    expect(codeOf(planReading([read(5, 1)], read(5, 2), NOW, null))).toBe('append');
  });
  it('lower than the last is never guessed about', () => {
    const held = [read(1, 100), read(2, 200)];
    expect(codeOf(planReading(held, read(3, 150), NOW, null))).toBe('lowerMeans');
    expect(codeOf(planReading(held, read(3, 150), NOW, 'meter replaced'))).toBe('begin anew');
    expect(codeOf(planReading(held, read(3, 150), NOW, 'last reading was wrong'))).toBe('strike last');
    // What is lower than the reading before too cannot be put right by striking one.
    expect(codeOf(planReading(held, read(3, 50), NOW, 'last reading was wrong'))).toBe('value');
    expect(codeOf(planReading([read(1, 100)], read(2, 50), NOW, 'last reading was wrong'))).toBe('strike last');
  });
  it('that is not lower needs no word, and one given changes nothing', () => {
    for (const means of [null, ...LOWER_MEANINGS])
      expect(planReading([read(1, 7)], read(2, 7), NOW, means)).toEqual({ ok: true, value: { kind: 'append' } });
  });
});

describe('what a meter has run', () => {
  type Step = { readonly up: number } | { readonly low: number; readonly means: LowerMeans };
  const step: fc.Arbitrary<Step> = fc.oneof(
    fc.record({ up: fc.integer({ min: 0, max: 500 }) }),
    fc.record({ low: fc.integer({ min: 0, max: 400 }), means: fc.constantFrom(...LOWER_MEANINGS) }),
  );

  it('is what each run of the counter added, whatever was replaced, reset or struck out', () => {
    fc.assert(
      fc.property(fc.array(step, { maxLength: 40 }), (steps) => {
        let held: (MeterReading & { anew: boolean })[] = [];
        // The model: finished runs, and the counter that runs now with all it showed.
        let finished = 0;
        let run: number[] = [];
        for (const [i, s] of steps.entries()) {
          const last = held.at(-1)?.value ?? 0;
          const value = 'up' in s ? last + s.up : s.low;
          const plan = planReading(held, read(i, value), NOW, 'up' in s ? null : s.means);
          if (!plan.ok) continue;
          const next = { ...read(i, value), anew: plan.value.kind === 'begin anew' };
          if (plan.value.kind === 'strike last') {
            const anew = held.at(-1)?.anew ?? false;
            held = [...held.slice(0, -1), { ...next, anew }];
            run = [...run.slice(0, -1), value];
          } else if (plan.value.kind === 'begin anew') {
            finished += (run.at(-1) ?? 0) - (run[0] ?? 0);
            held.push(next);
            // The new counter began at nothing.
            run = [0, value];
          } else {
            held.push(next);
            run.push(value);
          }
        }
        expect(totalRun(held)).toBe(finished + (run.at(-1) ?? 0) - (run[0] ?? 0));
        expect(totalRun(held)).toBeGreaterThanOrEqual(0);
      }),
      { numRuns: 400 },
    );
  });
});
