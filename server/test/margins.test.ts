// Margins: fees by the day less what was done under them, of agreements and customers, and of one by month and machine.
import { afterAll, beforeAll, expect, it } from 'vitest';
import type { AllowanceList } from '#api/allowances.ts';
import type { MarginList, MarginPage } from '#api/margins.ts';
import { openBillingHouse, type BillingHouse } from './billing-house.ts';
import { agreementInForce, must } from './house.ts';

const HALF = { labour: 100, parts: 50, consumables: 0, travel: 100 };

let at: BillingHouse;
let id: number;
beforeAll(async () => {
  at = await openBillingHouse();
  // 365.00 a year: 1.00 for each day.
  id = await agreementInForce(
    at.call,
    at.world,
    { priceMinor: 365_00, billingPer: 'year', to: '2028-12-31' },
    { reach: { kind: 'assets', assetIds: [at.world.assetIds[1]] }, shares: HALF },
    [
      { unit: 'call-outs', amount: 2, period: 'agreement year', carriesOver: false },
      { unit: 'visits', amount: 4, period: 'agreement year', carriesOver: false },
    ],
  );
});
afterAll(() => at?.house.close());

const list = async (query: string) => must(await at.manager<MarginList>('GET', `/api/settle/margins?${query}`));
const page = async () => must(await at.manager<MarginPage>('GET', `/api/settle/margins/${id}`));

it('is what was earned by the day, less what approved work took', async () => {
  const before = (await list('from=2026-11-01&to=2026-11-30')).items.find((i) => i.id === id);
  expect(before).toMatchObject({ earned: 30_00, cost: 0, margin: 30_00, before: 30_00 });
  const done = await at.done({ toll: 15_00, machine: 1 });
  const counted = await list('from=2026-11-01&to=2026-11-30');
  expect([counted.notApproved, counted.items.find((i) => i.id === id)?.cost]).toEqual([1, 0]);
  await at.approve(done);
  const look = await at.look(done);
  const after = await list('from=2026-11-01&to=2026-11-30');
  const cost = look.charges.reduce((sum, c) => sum + (c.cost ?? 0), 0);
  // Two gaskets at 51.00 and a toll of 12.50.
  expect(cost).toBe(114_50);
  expect(after.items.find((i) => i.id === id)).toMatchObject({ cost, charged: look.total.pay, margin: 30_00 - cost });
  // What loses most is first.
  expect(after.items[0]?.id).toBe(id);
  const byCustomer = await list('from=2026-11-01&to=2026-11-30&by=customer');
  expect(byCustomer.items.map((i) => [i.earned, i.cost])).toEqual([[30_00, cost]]);
  expect(byCustomer.sums).toEqual(after.sums);
});

it('by class and by machine come to the same sums; fees are shared evenly, cents left over by tag', async () => {
  const query = 'from=2026-11-01&to=2026-11-30';
  const [all, machines, classes] = await Promise.all(
    ['customer', 'machine', 'class'].map((by) => list(`${query}&by=${by}`)),
  );
  expect([machines?.sums, classes?.sums]).toEqual([all?.sums, all?.sums]);
  // The agreement covers one machine: it bears all of the fees and of the cost. It comes first, for it loses most.
  const [first] = machines?.items ?? [];
  expect(first).toMatchObject({ id: at.world.assetIds[1], earned: 30_00, cost: 114_50, margin: -84_50 });
  expect(first?.customer?.name).toBe(all?.items[0]?.name);
  expect(classes?.items.map((i) => [i.earned, i.cost])).toEqual([[30_00, 114_50]]);
  // Work outside every agreement is of its machine as well.
  const loose = await at.done({ toll: 15_00, machine: 2 });
  await at.approve(loose);
  const { items } = await list(`${query}&by=machine`);
  expect(items.find((i) => i.id === at.world.assetIds[2])?.cost).toBe(114_50);
  expect((await list(`${query}&by=customer`)).sums).toEqual((await list(`${query}&by=machine`)).sums);
});

it('of one is the sum of its months and of its machines', async () => {
  const one = await page();
  const sum = (all: readonly { earned: number; cost: number; margin: number }[]) =>
    all.reduce(
      (s, x) => [(s[0] as number) + x.earned, (s[1] as number) + x.cost, (s[2] as number) + x.margin],
      [0, 0, 0],
    );
  expect(sum(one.months)).toEqual(sum(one.machines));
  expect(sum(one.classes)).toEqual(sum(one.machines));
  expect(one.elements.reduce((s, e) => s + e.cost, 0)).toBe(114_50);
  expect(one.months.at(-1)).toMatchObject({ month: '2026-11', earned: 24_00, cost: 114_50 });
  expect(one.record).toMatchObject({ failures: 1, medianCost: 114_50, plannedCost: 0, machines: one.machines.length });
  expect(one.priceNow).toBe(365_00);
});

it('is for managers; a period that ends before it begins is refused', async () => {
  expect((await at.call('GET', '/api/settle/margins?from=2026-11-01&to=2026-11-30')).status).toBe(403);
  expect((await at.call('GET', `/api/settle/margins/${id}`)).status).toBe(403);
  const { status, body } = await at.manager('GET', '/api/settle/margins?from=2026-11-30&to=2026-11-01');
  expect([status, JSON.stringify(body)]).toEqual([422, expect.stringContaining('"field":"to"')]);
  expect((await at.manager('GET', '/api/settle/margins/9999')).status).toBe(404);
});

it('counted rights are listed with their pace, what is used up first', async () => {
  await at.done({ toll: 0, machine: 1 });
  const rights = async (query = '') => must(await at.call<AllowanceList>('GET', `/api/settle/allowances${query}`));
  const { items, counts } = await rights();
  expect(items.map((i) => [i.unit, i.state, i.drawn, i.granted])).toEqual([
    ['call-outs', 'used up', 2, 2],
    ['visits', 'lapses', 0, 4],
  ]);
  expect(counts).toEqual({ 'used up': 1, 'runs out': 0, lapses: 1, lasts: 0 });
  // One more call is beyond it: the agreement refuses to bear it, and it is told with what it came to.
  const beyond = await at.done({ toll: 22_00, machine: 1 });
  const [first] = (await rights('?state=used up'.replace(' ', '%20'))).items;
  expect([first?.beyond?.orders, (first?.beyond?.pay ?? 0) >= 22_00]).toEqual([[beyond], true]);
});
