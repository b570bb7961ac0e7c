import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { MAX_DEPTH, pathTo, planMerge, planMove, type TreePlace } from './index.ts';

const place = (id: number, parentId: number | null, over: Partial<TreePlace<number>> = {}): TreePlace<number> => ({
  id,
  parentId,
  name: `N${id}`,
  address: null,
  zone: null,
  latitude: null,
  longitude: null,
  calendarId: null,
  depotId: null,
  joinDays: null,
  accessNote: null,
  retiredOn: null,
  ...over,
});
const tree = (...places: TreePlace<number>[]) => new Map(places.map((p) => [p.id, p]));
const town = tree(
  place(1, null, { name: 'North', zone: 'Europe/Lisbon', address: '1 North Road' }),
  place(2, 1, { name: 'Building C', accessNote: 'Badge at the gate' }),
  place(3, 2, { name: 'Lab 4' }),
  place(4, 2, { name: 'Lab 5', address: 'Side door' }),
  place(5, null, { name: 'South', zone: 'Europe/Madrid', address: '9 South Road', calendarId: 7 }),
  place(6, 5, { name: 'Store', retiredOn: '2026-01-01' }),
);
const codeOf = (plan: ReturnType<typeof planMove>): string =>
  plan.ok ? 'ok' : plan.refusals.map((r) => `${r.code} ${r.field}`).join();

describe('moving a place', () => {
  it('says whose address, zone and calendar change, for it and each place below', () => {
    const plan = planMove(town, 2, 5, ['Store']);
    if (!plan.ok) throw new Error('refused');
    expect(plan.value.changes).toEqual([
      { id: 2, field: 'address', before: '1 North Road', after: '9 South Road' },
      { id: 2, field: 'zone', before: 'Europe/Lisbon', after: 'Europe/Madrid' },
      { id: 2, field: 'calendarId', before: null, after: '7' },
      { id: 3, field: 'address', before: '1 North Road', after: '9 South Road' },
      { id: 3, field: 'zone', before: 'Europe/Lisbon', after: 'Europe/Madrid' },
      { id: 3, field: 'calendarId', before: null, after: '7' },
      { id: 4, field: 'zone', before: 'Europe/Lisbon', after: 'Europe/Madrid' },
      { id: 4, field: 'calendarId', before: null, after: '7' },
    ]);
  });
  it('to the top loses what came from above, and says so', () => {
    const plan = planMove(town, 3, null, ['North', 'South']);
    expect(plan.ok && plan.value.changes.map((c) => [c.field, c.after])).toEqual([
      ['address', null],
      ['zone', null],
      ['accessNote', null],
    ]);
  });
  it.each<[string, number, number | null, string[], string]>([
    ['below itself', 2, 2, [], 'conflict parentId'],
    ['below its own child', 1, 3, [], 'conflict parentId'],
    ['below a retired place', 2, 6, [], 'conflict parentId'],
    ['beside its namesake', 3, 5, ['lab 4'], 'taken parentId'],
  ])('%s is refused', (_, id, to, siblings, code) => expect(codeOf(planMove(town, id, to, siblings))).toBe(code));
  it('deeper than twelve levels is refused, at twelve it is not', () => {
    const chain = tree(
      ...Array.from({ length: MAX_DEPTH - 1 }, (_, i) => place(i + 1, i === 0 ? null : i)),
      place(90, null),
      place(91, 90),
    );
    expect(codeOf(planMove(chain, 91, MAX_DEPTH - 1, []))).toBe('ok');
    expect(codeOf(planMove(chain, 90, MAX_DEPTH - 1, []))).toBe('too-large parentId');
  });
  it('there and back changes back what it changed, and never makes a loop', () =>
    fc.assert(
      fc.property(fc.array(fc.nat(30), { minLength: 2, maxLength: 20 }), fc.nat(19), fc.nat(19), (parents, a, b) => {
        const nodes = tree(
          ...parents.map((p, i) =>
            place(i, i === 0 || p % (i + 1) === i ? null : p % i, { zone: p % 3 ? null : `Z${i}` }),
          ),
        );
        const [id, to] = [a % parents.length, b % parents.length];
        const plan = planMove(nodes, id, to, []);
        if (!plan.ok) return;
        const moved = new Map(nodes).set(id, { ...(nodes.get(id) as TreePlace<number>), parentId: to });
        for (const n of moved.keys()) expect(pathTo(moved, n).length).toBeGreaterThan(0);
        const back = planMove(moved, id, nodes.get(id)?.parentId ?? null, []);
        expect(back.ok && back.value.changes.map((c) => ({ ...c, before: c.after, after: c.before }))).toEqual(
          plan.value.changes,
        );
      }),
    ));
});

describe('merging places', () => {
  const twins = tree(
    place(1, null, { name: 'Norvela' }),
    place(2, 1, { name: 'Lab 4' }),
    place(3, 1, { name: 'Lab 5' }),
    place(11, null, { name: 'Norvela site' }),
    place(12, 11, { name: 'lab 4' }),
    place(13, 12, { name: 'Bay' }),
  );
  const sameCustomer = (): number[] => [1];
  it('merges children of the same name too, deepest first', () => {
    const plan = planMerge(twins, 11, 1, sameCustomer);
    expect(plan.ok && plan.value).toEqual([
      { from: 12, into: 2 },
      { from: 11, into: 1 },
    ]);
  });
  it.each<[string, number, number, (id: number) => number[]]>([
    ['with itself', 1, 1, sameCustomer],
    ['with one above it', 2, 1, sameCustomer],
    ['with one below it', 1, 2, sameCustomer],
    ['across customers', 11, 1, (id) => [id]],
  ])('%s is refused', (_, from, into, customersOf) => expect(planMerge(twins, from, into, customersOf).ok).toBe(false));
});
