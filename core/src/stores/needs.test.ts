// Needs of order lines: what a use does to what is held, when an order waits, and what comes back is worth.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { asId, type NeedId, type StoreId } from '../ids.ts';
import { asInstant, asLocalDate } from '../time/index.ts';
import { isSoon, markOf, openOf, takePlanned, useOfNeed, worthOfReturn, type HeldAt, type Lacking } from './index.ts';

const store = (id: number) => asId<StoreId>(id);
const holdsOf = (...of: readonly number[]): HeldAt[] =>
  of.flatMap((thousandths, i) => (thousandths === 0 ? [] : [{ storeId: store(i + 1), thousandths }]));
const sumOf = (all: readonly HeldAt[]): number => all.reduce((n, h) => n + h.thousandths, 0);

describe('a use of a part that a line asked for', () => {
  it('uses up what was held where it came from', () => {
    const need = { wanted: 4000, used: 0, held: 4000 };
    expect(useOfNeed(need, holdsOf(3000, 1000), store(1), 2000)).toEqual({
      ...{ fromHold: 2000, kept: holdsOf(1000, 1000), letGo: [] },
    });
  });

  it('from elsewhere lets go of the last that is held, for no more is wanted', () => {
    const need = { wanted: 4000, used: 0, held: 4000 };
    const elsewhere = { fromHold: 0, kept: holdsOf(2000), letGo: [...holdsOf(0, 1000), ...holdsOf(1000)] };
    expect(useOfNeed(need, holdsOf(3000, 1000), store(9), 2000)).toEqual(elsewhere);
    expect(useOfNeed(need, holdsOf(3000, 1000), null, 2000)).toEqual(elsewhere);
  });

  it('keeps as much held as is still wanted and no more, whatever is used from where', () => {
    const amounts = fc.array(fc.nat(5), { minLength: 1, maxLength: 4 });
    const given = fc.record({
      held: amounts,
      more: fc.nat(6),
      used: fc.nat(6),
      from: fc.nat(4),
      n: fc.integer({ min: 1, max: 12 }),
    });
    fc.assert(
      fc.property(given, ({ held, more, used, from, n }) => {
        const holds = holdsOf(...held);
        const need = { wanted: used + sumOf(holds) + more, used, held: sumOf(holds) };
        const came = useOfNeed(need, holds, store(from), n);
        expect(came.fromHold + sumOf(came.kept) + sumOf(came.letGo)).toBe(need.held);
        expect(came.fromHold).toBe(Math.min(n, held[from - 1] ?? 0));
        const wanted = Math.max(0, need.wanted - need.used - n);
        expect(sumOf(came.kept)).toBe(Math.min(wanted, need.held - came.fromHold));
        const open = openOf({ ...need, used: used + n, held: sumOf(came.kept) });
        expect(open).toBe(Math.max(0, wanted - sumOf(came.kept)));
        expect([...came.kept, ...came.letGo].every((h) => h.thousandths > 0)).toBe(true);
      }),
    );
  });
});

describe('the mark of an order', () => {
  const going = { stage: 'planned', waitingFor: null, pausedSince: null, restoredAt: null } as const;
  const since = asInstant('2026-11-24T09:00:00Z');
  const waits = { ...going, waitingFor: 'waiting for parts', pausedSince: since } as const;
  const lacks = (open: number, anyway: string | null = null): Lacking => ({
    ...{ id: asId<NeedId>(1), name: 'Door gasket', open, anyway },
  });

  it('begins with a need that is open and names what is waited for, and ends with the last', () => {
    expect(markOf(going, [lacks(2000), lacks(0)])).toEqual({
      ...{ kind: 'paused', reason: 'waiting for parts', text: '2 × Door gasket' },
    });
    expect(markOf(waits, [lacks(1)])).toBeNull();
    expect(markOf(waits, [lacks(0), lacks(0)])).toEqual({ kind: 'resumed' });
    expect(markOf(going, [lacks(0)])).toBeNull();
  });

  it('does not wait for what somebody decided to go without', () => {
    expect(markOf(going, [lacks(2000, 'the customer has one')])).toBeNull();
    expect(markOf(waits, [lacks(2000, 'the customer has one')])).toEqual({ kind: 'resumed' });
    expect(markOf(waits, [lacks(2000, 'the customer has one'), lacks(1000)])).toBeNull();
  });

  it('is left alone while something else is waited for, without needs, and once nothing is left to do', () => {
    expect(markOf({ ...waits, waitingFor: 'no access' }, [lacks(0)])).toBeNull();
    expect(markOf({ ...waits, waitingFor: 'no access' }, [lacks(1000)])).toBeNull();
    expect(markOf(waits, [])).toBeNull();
    for (const stage of ['done', 'settled', 'called off'] as const)
      expect([markOf({ ...going, stage }, [lacks(1)]), markOf({ ...waits, stage }, [lacks(0)])]).toEqual([null, null]);
    expect(markOf({ ...going, restoredAt: since }, [lacks(1)])).toBeNull();
  });

  it('looks at work of the coming weeks, and at what has no day', () => {
    const until = asLocalDate('2026-12-15');
    expect(['2026-12-15', '2026-12-16', null].map((d) => isSoon(d === null ? null : asLocalDate(d), until))).toEqual([
      ...[true, false, true],
    ]);
  });
});

describe('what comes back', () => {
  it('is worth its share of what went out, and all of it exactly that, in whatever pieces it comes', () => {
    const pieces = fc.array(fc.integer({ min: 1, max: 9_000 }), { minLength: 1, maxLength: 6 });
    fc.assert(
      fc.property(pieces, fc.integer({ min: 0, max: 1_000_000 }), (back, money) => {
        let out = { thousandths: back.reduce((a, b) => a + b, 0), money };
        const worth = back.map((n) => {
          const own = worthOfReturn(out, n);
          expect(Math.abs(own - (out.money * n) / out.thousandths)).toBeLessThanOrEqual(0.5);
          out = { thousandths: out.thousandths - n, money: out.money - own };
          return own;
        });
        expect(worth.reduce((a, b) => a + b, 0)).toBe(money);
        expect(worth.every((w) => w >= 0)).toBe(true);
      }),
    );
    expect(() => worthOfReturn({ thousandths: 1000, money: 5 }, 1001)).toThrow('No more');
  });
});

describe('planned parts', () => {
  const van = (free: number) => ({ storeId: store(7), free });
  it('are taken from what is held for them, then from the van; what neither has is said', () => {
    expect(takePlanned(5000, holdsOf(2000, 1000), van(1500), true)).toEqual({
      taken: [...holdsOf(2000, 1000), { storeId: store(7), thousandths: 1500 }],
      short: 500,
    });
    expect(takePlanned(2000, [{ storeId: store(7), thousandths: 1000 }], van(4000), true)).toEqual({
      ...{ taken: [{ storeId: store(7), thousandths: 2000 }], short: 0 },
    });
    expect(takePlanned(1000, [], null, true)).toEqual({ taken: [], short: 1000 });
  });
  it('that lie in no store at all come from none', () => {
    expect(takePlanned(1500, [], van(0), false)).toEqual({ taken: [{ storeId: null, thousandths: 1500 }], short: 0 });
  });
});
