import { describe, expect, it } from 'vitest';
import { asLocalDate } from '../time/index.ts';
import {
  actsOffered,
  ASSET_STATES,
  checkParent,
  planLife,
  planSwap,
  type AssetState,
  type LivingAsset,
} from './index.ts';
import { planReading, totalRun } from '../meters.ts';
import { instant } from '../time/index.ts';

const today = asLocalDate('2026-11-24');
const machine = (id: number, state: AssetState = 'in service'): LivingAsset<number, number, number> => ({
  id,
  tag: `Q${id}`,
  customerId: 1,
  classId: 1,
  locationId: state === 'in store' ? null : 40,
  parentId: null,
  owner: 'customer',
  state,
});
const codes = (plan: { ok: boolean; refusals?: readonly { code: string; field?: string }[] }): string[] =>
  plan.ok ? [] : (plan.refusals ?? []).map((r) => `${r.code} ${r.field}`);

describe('the life of an asset', () => {
  it('each act leads to a state that offers the way on; scrapping ends it', () => {
    for (const state of ASSET_STATES)
      for (const kind of actsOffered(state)) {
        const act = kind === 'installed' || kind === 'moved' ? { kind, locationId: 41, parentId: null } : { kind };
        const plan = planLife(machine(1, state), act, today, today);
        expect(plan.ok, `${state}, ${kind}`).toBe(true);
        if (plan.ok) expect(actsOffered(plan.value.state).length === 0).toBe(kind === 'scrapped');
      }
  });
  it('a removed machine stands nowhere, part of nothing, in store', () => {
    const plan = planLife({ ...machine(1), parentId: 9 }, { kind: 'removed' }, today, today);
    expect(plan.ok && plan.value).toMatchObject({ locationId: null, parentId: null, state: 'in store' });
  });
  it('a scrapped one keeps its last place', () => {
    const plan = planLife(machine(1), { kind: 'scrapped' }, today, today);
    expect(plan.ok && plan.value).toMatchObject({ locationId: 40, state: 'retired' });
  });
  it('acts of another state and of the future are refused', () => {
    expect(codes(planLife(machine(1, 'retired'), { kind: 'removed' }, today, today))).toEqual(['wrong-stage kind']);
    expect(codes(planLife(machine(1), { kind: 'removed' }, asLocalDate('2026-11-25'), today))).toEqual([
      'in-the-future on',
    ]);
  });
});

describe('a swap', () => {
  it('gives the new one place, parent and customer; the old one goes to the store or is retired', () => {
    const old = { ...machine(1), parentId: 7, customerId: 3 };
    const fleet = { ...machine(2, 'in store'), owner: 'own fleet' as const };
    const plan = planSwap(old, fleet, 'to store', today, today);
    expect(plan.ok && plan.value).toEqual({
      out: { id: 1, customerId: 3, locationId: null, parentId: null, state: 'in store' },
      in: { id: 2, customerId: 3, locationId: 40, parentId: 7, state: 'in service' },
    });
    const scrapped = planSwap(old, fleet, 'scrapped', today, today);
    expect(scrapped.ok && scrapped.value.out).toMatchObject({ locationId: 40, state: 'retired' });
  });
  it('with a machine of another customer is refused, with one of the own fleet it is not', () => {
    const theirs = { ...machine(2, 'in store'), customerId: 9 };
    expect(codes(planSwap(machine(1), theirs, 'to store', today, today))).toEqual(['conflict newAssetId']);
    expect(planSwap(machine(1), { ...theirs, owner: 'own fleet' }, 'to store', today, today).ok).toBe(true);
  });
  it.each<[string, AssetState, AssetState, number]>([
    ['one that works elsewhere', 'in service', 'in service', 2],
    ['a retired one in', 'in service', 'retired', 2],
    ['out of the store', 'in store', 'in store', 2],
    ['itself', 'in service', 'in service', 1],
  ])('putting in %s is refused', (_, a, b, id) =>
    expect(planSwap(machine(1, a), machine(id, b), 'to store', today, today).ok).toBe(false),
  );
});

describe('parts', () => {
  const parents = new Map([
    [1, 2],
    [2, 3],
  ]);
  const parentOf = (id: number): number | null => parents.get(id) ?? null;
  it('a loop between parents is refused, directly and by way of parts', () => {
    expect(checkParent(3, 3, parentOf)?.field).toBe('parentId');
    expect(checkParent(3, 1, parentOf)?.field).toBe('parentId');
    expect(checkParent(1, 3, parentOf)).toBeNull();
    expect(checkParent(1, null, parentOf)).toBeNull();
  });
});

describe('meter readings', () => {
  const at = (n: number) => instant(n * 1000);
  const held = [
    { at: at(1), value: 100 },
    { at: at(2), value: 250 },
  ];
  const now = at(100);
  it('go on from the last one', () =>
    expect(planReading(held, { at: at(3), value: 250 }, now, null)).toEqual({ ok: true, value: { kind: 'append' } }));
  it('a lower one asks what it means, and does as told', () => {
    expect(codes(planReading(held, { at: at(3), value: 30 }, now, null))).toEqual(['out-of-order lowerMeans']);
    expect(planReading(held, { at: at(3), value: 30 }, now, 'meter replaced')).toEqual({
      ok: true,
      value: { kind: 'begin anew', because: 'meter replaced' },
    });
    expect(planReading(held, { at: at(3), value: 130 }, now, 'last reading was wrong')).toEqual({
      ok: true,
      value: { kind: 'strike last' },
    });
    expect(codes(planReading(held, { at: at(3), value: 30 }, now, 'last reading was wrong'))).toEqual([
      'out-of-order value',
    ]);
  });
  it.each([
    ['below zero', { at: at(3), value: -1 }, 'invalid value'],
    ['not a number', { at: at(3), value: NaN }, 'invalid value'],
    ['of the future', { at: at(101), value: 300 }, 'in-the-future at'],
    ['before the last', { at: at(1.5), value: 300 }, 'out-of-order at'],
  ])('one %s is refused', (_, reading, code) => expect(codes(planReading(held, reading, now, null))).toEqual([code]));
  it('the total goes on over replacements', () =>
    expect(
      totalRun([
        { at: at(1), value: 100, anew: false },
        { at: at(2), value: 250, anew: false },
        { at: at(3), value: 30, anew: true },
        { at: at(4), value: 70, anew: false },
      ]),
    ).toBe(150 + 30 + 40));
});
