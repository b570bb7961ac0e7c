import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { PricedStretch } from '../agreements/index.ts';
import { addDays, asLocalDate, type LocalDate } from '../time/index.ts';
import { NO_PLEDGE } from '../service-levels/index.ts';
import { feesDue, NO_PROMISES, restsOf, type BilledFee, type Fee, type FeeFacts, type PromiseFacts } from './index.ts';

const d = asLocalDate;
const stretch = (minor: number, from: string, to: string | null = null, key = 'whole'): PricedStretch => ({
  ...{ key, label: key, minor },
  term: { from: d(from), to: to === null ? null : d(to) },
});
const facts = (over: Partial<FeeFacts> = {}): FeeFacts => ({
  plan: { per: 'month', timing: 'in advance', indexation: null },
  term: { from: d('2026-01-01'), to: d('2026-12-31') },
  stretches: [stretch(310_00, '2026-01-01')],
  ...{ visits: [], rests: [], since: d('2026-01-01'), billed: [], promises: NO_PROMISES },
  ...over,
});
const said = (fees: readonly Fee[]) => fees.map((f) => `${f.from}…${f.to} ${f.minor}`);

/** What was billed so far, with what a run bills now. */
function billedAfter(billed: readonly BilledFee[], fees: readonly Fee[]): BilledFee[] {
  const all = new Map(billed.map((b) => [`${b.key} ${b.from}`, b]));
  for (const { key, from, to, label, minor } of fees) {
    const known = all.get(`${key} ${from}`);
    all.set(`${key} ${from}`, {
      ...{ key, from, to, label },
      ...{ minor: minor + (known?.minor ?? 0), times: 1 + (known?.times ?? 0) },
    });
  }
  return [...all.values()];
}

describe('fees that are due', () => {
  it('in advance on their first day, in arrears on their last, none that fell due before we billed', () => {
    expect(said(feesDue(facts(), d('2026-02-01')))).toEqual([
      '2026-01-01…2026-01-31 31000',
      '2026-02-01…2026-02-28 31000',
    ]);
    const arrears = facts({ plan: { per: 'month', timing: 'in arrears', indexation: null } });
    expect(said(feesDue(arrears, d('2026-02-27')))).toEqual(['2026-01-01…2026-01-31 31000']);
    expect(said(feesDue(facts({ since: d('2026-02-01') }), d('2026-02-28')))).toEqual(['2026-02-01…2026-02-28 31000']);
  });

  it('are billed once, and again only what is different', () => {
    const first = feesDue(facts(), d('2026-03-01'));
    const billed = billedAfter([], first);
    expect(feesDue(facts({ billed }), d('2026-03-01'))).toEqual([]);
    // From 11 February it costs twice as much: 10 of 28 days at 310.00 are 110.71, 18 at 620.00 are 398.57; each stretch is rounded once.
    const dearer = [stretch(310_00, '2026-01-01', '2026-02-10'), stretch(620_00, '2026-02-11')];
    const again = feesDue(facts({ billed, stretches: dearer }), d('2026-03-01'));
    expect(again.map((f) => [f.from, f.before, f.minor, f.times])).toEqual([
      ['2026-02-01', 310_00, 199_28, 1],
      ['2026-03-01', 310_00, 310_00, 1],
    ]);
  });

  it('of an earlier day than was billed already, or before we bill, nothing is taken back', () => {
    const billed = billedAfter([], feesDue(facts(), d('2026-06-01')));
    expect(billed).toHaveLength(6);
    expect(feesDue(facts({ billed }), d('2026-02-15'))).toEqual([]);
    expect(feesDue(facts({ billed, since: d('2026-05-01') }), d('2026-06-01'))).toEqual([]);
  });

  it('an amendment that reaches back over three billed periods makes a difference in each', () => {
    const billed = billedAfter([], feesDue(facts(), d('2026-04-30')));
    const cheaper = [stretch(310_00, '2026-01-01', '2026-01-31'), stretch(300_00, '2026-02-01')];
    expect(said(feesDue(facts({ billed, stretches: cheaper }), d('2026-04-30')))).toEqual([
      '2026-02-01…2026-02-28 -1000',
      '2026-03-01…2026-03-31 -1000',
      '2026-04-01…2026-04-30 -1000',
    ]);
  });

  it('a suspended agreement bills no days of its rest: from the first to the day before it goes on', () => {
    const rests = restsOf([{ from: d('2026-01-11'), resumedOn: d('2026-01-21') }]);
    expect(rests).toEqual([{ from: d('2026-01-11'), to: d('2026-01-20') }]);
    // 21 of 31 days of 310.00.
    expect(said(feesDue(facts({ rests }), d('2026-01-31')))).toEqual(['2026-01-01…2026-01-31 21000']);
    const still = restsOf([{ from: d('2026-02-01'), resumedOn: null }]);
    expect(said(feesDue(facts({ rests: still }), d('2026-06-30')))).toEqual(['2026-01-01…2026-01-31 31000']);
    expect(restsOf([{ from: d('2026-01-11'), resumedOn: d('2026-01-11') }])).toEqual([]);
  });

  it('what ends before its period does gives the rest back', () => {
    const billed = billedAfter([], feesDue(facts(), d('2026-01-01')));
    const term = { from: d('2026-01-01'), to: d('2026-01-10') };
    // 10 of 31 days of 310.00 stay.
    expect(said(feesDue(facts({ term, billed }), d('2026-01-15')))).toEqual(['2026-01-01…2026-01-10 -21000']);
  });

  it('billed at any days, with amendments and suspensions in between, sums to what is true at the end', () => {
    const day = fc.integer({ min: 0, max: 364 }).map((n) => addDays(d('2026-01-01'), n));
    const change = fc.record({
      on: day,
      keys: fc.array(
        fc.record({ minor: fc.integer({ min: 0, max: 99_999 }), from: day, days: fc.integer({ min: 0, max: 300 }) }),
        { maxLength: 3 },
      ),
      rest: fc.option(fc.record({ from: day, days: fc.integer({ min: 0, max: 90 }) })),
    });
    fc.assert(
      fc.property(
        fc.array(change, { minLength: 1, maxLength: 4 }),
        fc.constantFrom('month' as const, 'quarter' as const, 'year' as const),
        fc.constantFrom('in advance' as const, 'in arrears' as const),
        (changes, per, timing) => {
          // On whatever days, also one before the last: what was billed ahead stays.
          const runs = changes;
          let billed: BilledFee[] = [];
          const at = ({ keys, rest }: (typeof runs)[number]): FeeFacts => ({
            ...facts({ plan: { per, timing, indexation: null }, billed }),
            stretches: keys.map((k, i) => stretch(k.minor, k.from, addDays(k.from, k.days), `line ${i}`)),
            rests: rest ? [{ from: rest.from, to: addDays(rest.from, rest.days) }] : [],
          });
          for (const run of runs) billed = billedAfter(billed, feesDue(at(run), run.on));
          const [last, end] = [runs.at(-1) as (typeof runs)[number], d('2026-12-31')];
          billed = billedAfter(billed, feesDue(at(last), end));
          const truth = new Map(
            feesDue({ ...at(last), billed: [] }, end).map((f) => [`${f.key} ${f.from}`, f.minor] as const),
          );
          for (const b of billed) expect(b.minor).toBe(truth.get(`${b.key} ${b.from}`) ?? 0);
          for (const [key, minor] of truth) expect(billed.find((b) => `${b.key} ${b.from}` === key)?.minor).toBe(minor);
          expect(feesDue(at(last), end)).toEqual([]);
        },
      ),
      { numRuns: 300 },
    );
  });

  it('the parts of a broken period by day stay within a cent of the whole', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 30 }), fc.integer({ min: 1, max: 1e6 }), (cut, minor) => {
        const on: LocalDate = addDays(d('2026-01-01'), cut);
        const two = [stretch(minor, '2026-01-01', addDays(on, -1)), stretch(minor, on)];
        const [january] = feesDue(facts({ stretches: two }), d('2026-01-31'));
        expect(Math.abs((january?.minor ?? 0) - minor)).toBeLessThanOrEqual(1);
      }),
    );
  });
});

const PLEDGE = {
  ...NO_PLEDGE,
  tiers: [
    { below: 9500, credit: 500 },
    { below: 8000, credit: 2000 },
  ],
};
const promises = (over: Partial<PromiseFacts> = {}): PromiseFacts => ({
  ...{ days: [], pledgeOf: () => ({ name: 'Gold', pledge: PLEDGE }), today: d('2026-02-10') },
  ...over,
});
const kept = (day: string, met: number, missed: number, levelId = 7) => ({ day: d(day), met, missed, levelId });

describe('credits for promises', () => {
  it('are a line below zero on the next bill, of the tier its attainment fell below, once the period has ended', () => {
    // 9 of 10 kept is 90 %: below 95 gives 5 % of 310.00; 7 of 10 is below 80 too, and gives 20 % alone.
    const january = promises({ days: [kept('2026-01-03', 9, 0), kept('2026-01-31', 0, 1)] });
    const due = feesDue(facts({ promises: january }), d('2026-02-01'));
    expect(due.map((f) => [f.key, f.from, f.minor, f.dueOn, f.promises])).toEqual([
      ['credit 7', '2026-01-01', -15_50, '2026-02-01', { met: 9, missed: 1 }],
      ['whole', '2026-01-01', 310_00, '2026-01-01', null],
      ['whole', '2026-02-01', 310_00, '2026-02-01', null],
    ]);
    const worse = promises({ days: [kept('2026-01-03', 7, 3)] });
    expect(feesDue(facts({ promises: worse }), d('2026-02-01'))[0]?.minor).toBe(-62_00);
    expect(feesDue(facts({ promises: january }), d('2026-01-31')).map((f) => f.key)).toEqual(['whole']);
    const running = promises({ days: [kept('2026-01-03', 0, 1)], today: d('2026-01-31') });
    expect(feesDue(facts({ promises: running }), d('2026-02-01')).map((f) => f.key)).toEqual(['whole', 'whole']);
  });

  it('follow what the fee and the promises turn out to be later, by differences, and are given back where none is owed', () => {
    const missed = promises({ days: [kept('2026-01-03', 3, 1)] });
    const billed = billedAfter([], feesDue(facts({ promises: missed }), d('2026-02-01')));
    expect(feesDue(facts({ billed, promises: missed }), d('2026-02-01'))).toEqual([]);
    const dearer = { billed, promises: missed, stretches: [stretch(620_00, '2026-01-01')] };
    expect(said(feesDue(facts(dearer), d('2026-02-01')))).toEqual([
      ...['2026-01-01…2026-01-31 -6200', '2026-01-01…2026-01-31 31000', '2026-02-01…2026-02-28 31000'],
    ]);
    const corrected = promises({ days: [kept('2026-01-03', 4, 0)] });
    expect(said(feesDue(facts({ billed, promises: corrected }), d('2026-02-01')))).toEqual([
      '2026-01-01…2026-01-31 6200',
    ]);
  });

  it('of several service levels are never more than the fee, whatever they pledge', () => {
    const all = { ...NO_PLEDGE, tiers: [{ below: 10_000, credit: 7000 }] };
    const both = promises({
      days: [kept('2026-01-03', 0, 1), kept('2026-01-04', 0, 1, 8)],
      pledgeOf: () => ({ name: 'Gold', pledge: all }),
    });
    expect(feesDue(facts({ promises: both }), d('2026-01-31'))).toHaveLength(1);
    const due = feesDue(facts({ promises: both }), d('2026-02-01')).filter((f) => f.promises);
    expect(due.map((f) => f.minor)).toEqual([-217_00, -93_00]);
  });

  it('however often it is billed in between, come to what is owed last', () => {
    const day = fc.integer({ min: 0, max: 180 }).map((n) => addDays(d('2026-01-01'), n));
    const days = fc.array(fc.record({ day, met: fc.nat(3), missed: fc.nat(2), levelId: fc.constantFrom(7, 8) }), {
      maxLength: 25,
    });
    fc.assert(
      fc.property(fc.array(fc.tuple(day, days), { minLength: 1, maxLength: 6 }), (runs) => {
        let billed: BilledFee[] = [];
        const inOrder = runs.toSorted(([a], [b]) => (a < b ? -1 : 1));
        for (const [upTo, known] of inOrder)
          billed = billedAfter(
            billed,
            feesDue(facts({ billed, promises: promises({ days: known, today: upTo }) }), upTo),
          );
        const [upTo, known] = inOrder.at(-1) as (typeof runs)[number];
        const at = promises({ days: known, today: upTo });
        const owed = (fees: readonly { key: string; from: string; minor: number }[]) =>
          Object.fromEntries(fees.filter((f) => f.minor !== 0).map((f) => [`${f.key} ${f.from}`, f.minor]));
        expect(owed(billed)).toEqual(owed(feesDue(facts({ promises: at }), upTo)));
        const total = billed.reduce((sum, b) => sum + b.minor, 0);
        expect(total).toBeGreaterThanOrEqual(0);
      }),
    );
  });
});
