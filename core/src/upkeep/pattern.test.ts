import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { addDays, asLocalDate } from '../time/index.ts';
import { planFollowing, type FollowerFacts } from './pattern.ts';
import type { WrittenCadence } from './written.ts';

const d = asLocalDate;
const rule = (text: string): WrittenCadence => ({ kind: 'rule', rule: text });
const since = (count: number): WrittenCadence => ({
  kind: 'since service',
  time: { count, unit: 'month' },
  meter: null,
});
const facts = (over: Partial<FollowerFacts> = {}): FollowerFacts => ({
  cadence: rule('FREQ=MONTHLY'),
  otherTerms: false,
  isDraft: false,
  lastRaised: null,
  ...over,
});

describe('following a pattern', () => {
  it('is nothing, terms in place, or another rule from a day on', () => {
    const wished = d('2026-12-01');
    expect(planFollowing(facts(), rule('FREQ=MONTHLY'), wished)).toEqual({ kind: 'same' });
    expect(planFollowing(facts({ otherTerms: true }), rule('FREQ=MONTHLY'), wished)).toEqual({ kind: 'in place' });
    expect(planFollowing(facts({ isDraft: true }), rule('FREQ=WEEKLY'), wished)).toEqual({ kind: 'in place' });
    expect(planFollowing(facts({ cadence: since(3) }), since(6), wished)).toEqual({ kind: 'in place' });
    expect(planFollowing(facts({ cadence: since(3) }), rule('FREQ=WEEKLY'), wished).kind).toBe('from a day on');
  });

  it('never begins before the wished day, nor on or before a visit that is raised', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: -400, max: 400 }),
        fc.option(fc.integer({ min: -400, max: 400 }), { nil: null }),
        (n, raised) => {
          const wished = addDays(d('2026-12-01'), n);
          const lastRaised = raised === null ? null : addDays(d('2026-12-01'), raised);
          const plan = planFollowing(facts({ lastRaised }), rule('FREQ=WEEKLY'), wished);
          if (plan.kind !== 'from a day on') throw new Error(plan.kind);
          expect(plan.from >= wished && (lastRaised === null || plan.from > lastRaised)).toBe(true);
          expect(plan.from === wished || (lastRaised !== null && plan.from === addDays(lastRaised, 1))).toBe(true);
        },
      ),
    );
  });
});
