// The review of an agreement: the same figures as elsewhere, money only for whoever sees margins, proposals with their reasons.
import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, expect, it } from 'vitest';
import type { MarginList } from '#api/margins.ts';
import type { ReviewPage } from '#api/review.ts';
import type { StandingRow } from '#api/standing.ts';
import { agreementInForce, buildWorld, must, openHouse, type Caller, type TestHouse, type World } from './house.ts';

let house: TestHouse;
let world: World;
let call: Caller;
const PERIOD = 'from=2026-11-01&to=2026-11-23';
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  world = await buildWorld(call, { assets: 3 });
  // The first machine is down twice, soon again; the third once, and it is said late.
  await repair(0, '2026-11-02T09:00:00Z', '2026-11-02T12:00:00Z');
  await repair(0, '2026-11-12T09:00:00Z', '2026-11-12T10:30:00Z');
  await repair(2, '2026-11-16T09:00:00Z', '2026-11-20T16:00:00Z');
});
afterAll(() => house.close());

async function repair(n: number, from: string, to: string): Promise<void> {
  const { id } = must(
    await call<{ id: number }>('POST', '/api/orders', {
      ...{ assetIds: [world.assetIds[n]], priority: 1, cause: 'wear', title: 'Too warm', requestKey: randomUUID() },
      receivedAt: from,
    }),
  );
  for (const [kind, at] of [
    ['arrived', from],
    ['restored', to],
  ])
    must(await call('POST', `/api/orders/${id}/events`, { requestKey: randomUUID(), at, act: { kind } }));
}
const review = async (by: Caller = call, query = PERIOD): Promise<ReviewPage> =>
  must(await by<ReviewPage>('GET', `/api/standing/review/${world.agreementId}?${query}`));

it('says what standing says of the agreement, and of the period before', async () => {
  const page = await review();
  const { items } = must(await call<{ items: StandingRow[] }>('GET', `/api/standing?${PERIOD}&by=agreement`));
  const row = items.find((r) => r.id === world.agreementId);
  expect(page.total).toEqual({
    ...{ met: row?.met, missed: row?.missed, attainment: row?.attainment },
    ...{ owed: row?.owed, inWindow: row?.inWindow, declined: row?.declined, compliance: row?.compliance },
  });
  expect([page.before.from, page.before.to]).toEqual(['2026-10-09', '2026-10-31']);
  expect(page.causes.reduce((n, c) => n + c.missed, 0)).toBe(page.total.missed);
  expect(page.total.missed).toBeGreaterThan(0);
});

it('names machines in trouble, with how long they were down, and what speaks for more upkeep', async () => {
  const page = await review();
  expect(page.machines).toBe(3);
  expect(page.troubled.map((m) => [m.id, m.failures, m.repeats, m.downMinutes])).toEqual([
    [world.assetIds[0], 2, 1, 270],
  ]);
  expect(page.proposals.filter((p) => p.machine).map((p) => [p.kind, p.machine?.id, p.because])).toEqual([
    ['more upkeep', world.assetIds[0], 'it was down twice, once within thirty days after it was mended'],
  ]);
  // Out of the period it is not in trouble.
  expect((await review(call, 'from=2026-11-15&to=2026-11-23')).troubled).toEqual([]);
});

it('tells money only to those who see margins: as their list has it', async () => {
  const boss = await house.as('manager');
  const priced = await agreementInForce(call, world, { priceMinor: 120_000, billingPer: 'month' });
  const page = must(await boss<ReviewPage>('GET', `/api/standing/review/${priced}?${PERIOD}`));
  const { items } = must(await boss<MarginList>('GET', `/api/settle/margins?${PERIOD}&by=agreement`));
  const own = items.find((i) => i.id === priced);
  expect(page.money).toEqual({ earned: own?.earned, cost: own?.cost });
  expect(page.money?.earned).toBeGreaterThan(80_000);
  // Its one machine bears all of it.
  expect(page.troubled.map((m) => [m.earned, m.cost])).toEqual([[page.money?.earned, page.money?.cost]]);
  const told = await review();
  expect([told.money, told.troubled[0]?.cost, told.troubled[0]?.earned]).toEqual([null, null, null]);
  expect(told.proposals.some((p) => /fees/.test(p.because))).toBe(false);
});

it('is refused of a draft, of what is not there, and of a period that ends before it begins', async () => {
  const at = async (id: number, query = PERIOD) => (await call('GET', `/api/standing/review/${id}?${query}`)).status;
  const { id } = must(
    await call<{ id: number }>('POST', '/api/agreements', {
      ...{
        requestKey: randomUUID(),
        customerId: world.customerId,
        name: 'Not yet',
        from: '2026-01-01',
        to: '2026-12-31',
      },
      ...{ noticeDays: 0, reminder: '', priceMinor: 1, billingPer: 'month' },
    }),
  );
  expect([await at(id), await at(99_999), await at(world.agreementId, 'from=2026-11-23&to=2026-11-01')]).toEqual([
    404, 404, 422,
  ]);
});
