// Another cause is found when finished work is looked through: its cover is decided again, until it is approved.
import { randomUUID } from 'node:crypto';
import { and, eq, isNull } from 'drizzle-orm';
import { afterAll, beforeAll, expect, it } from 'vitest';
import type { OrderPage } from '#api/orders.ts';
import type { OrderId } from '#core/ids.ts';
import { lookAtMarked } from '../src/settle/index.ts';
import { allowanceDraw, outbox } from '../src/tables.ts';
import { openBillingHouse, type BillingHouse } from './billing-house.ts';
import { changed, kept } from './every-row.ts';
import { agreementInForce, must } from './house.ts';

let at: BillingHouse;
beforeAll(async () => {
  at = await openBillingHouse();
});
afterAll(() => at?.house.close());

const page = async (id: number) => must(await at.call<OrderPage>('GET', `/api/orders/${id}`));
const decide = async (id: number, ask: object) => {
  const { lines } = await page(id);
  const body = { priority: null, lines: [{ lineId: lines[0]?.id, assetId: null, cause: 'misuse' }], ...ask };
  return at.call('POST', `/api/orders/${id}/changes`, { requestKey: randomUUID(), text: 'dropped', ...body });
};
const looked = async (id: number) => {
  while ((await lookAtMarked(at.house.database)) > 0);
  return at.look(id);
};

it('the customer pays what no cover bears any more, both decisions stay, and nobody is told again that it is done', async () => {
  const id = await at.done();
  const [before, told] = [await looked(id), (await at.house.database.db.select().from(outbox)).length];
  // 80 % of two gaskets are the agreement’s.
  expect(before.total.pay).toBe(50_96);
  must(await decide(id, {}));
  const after = await looked(id);
  expect(after.total.pay).toBe(194_80);
  expect(after.digest).not.toBe(before.digest);
  const { lines, stage } = await page(id);
  expect([stage, lines[0]?.cause, lines[0]?.former.length]).toEqual(['done', 'misuse', 1]);
  expect((await at.house.database.db.select().from(outbox)).length).toBe(told);
  must(await decide(id, { lines: [{ lineId: lines[0]?.id, assetId: null, cause: 'wear' }] }));
  expect((await looked(id)).total.pay).toBe(before.total.pay);
});

it('changes nothing of another machine or priority, nor of what was approved', async () => {
  const id = await at.done();
  const all = await kept(at.house);
  expect((await decide(id, { priority: 1 })).status).toBe(409);
  const { lines } = await page(id);
  const machine = { lines: [{ lineId: lines[0]?.id, assetId: at.world.assetIds[1], cause: 'misuse' }] };
  expect((await decide(id, machine)).status).toBe(409);
  expect(changed(all, await kept(at.house))).toEqual([]);
  await at.approve(id);
  const approved = await kept(at.house);
  const refused = await decide(id, {});
  expect([refused.status, refused.body.detail]).toEqual([409, expect.stringMatching(/approved; take that back/)]);
  expect(changed(approved, await kept(at.house))).toEqual([]);
});

it('a machine that was left undone draws nothing, also where it is decided again', async () => {
  const assetIds = at.world.assetIds.slice(2, 4);
  await agreementInForce(
    at.call,
    at.world,
    {},
    { reach: { kind: 'assets', assetIds }, shares: { labour: 100, parts: 100, consumables: 100, travel: 100 } },
    [{ unit: 'call-outs', amount: 5, period: 'agreement year', carriesOver: false }],
  );
  const { id } = must(
    await at.call<{ id: number }>('POST', '/api/orders', {
      ...{ requestKey: randomUUID(), assetIds, priority: 2, cause: 'wear', title: 'Warm' },
      receivedAt: '2026-11-23T09:00:00Z',
    }),
  );
  const [first, second] = (await page(id)).lines.map((l) => l.id);
  const record = async (when: string, act: object) =>
    must(
      await at.call('POST', `/api/orders/${id}/events`, {
        ...{ requestKey: randomUUID(), at: `2026-11-23T${when}:00Z`, act },
      }),
    );
  const drawn = async () => {
    const rows = await at.house.database.db
      .select({ line: allowanceDraw.orderLineId })
      .from(allowanceDraw)
      .where(and(eq(allowanceDraw.orderId, id as OrderId), isNull(allowanceDraw.returnedAt)))
      .orderBy(allowanceDraw.orderLineId);
    return rows.map((r) => r.line as number);
  };
  expect(await drawn()).toEqual([first, second]);
  await record('10:00', { kind: 'arrived' });
  await record('10:30', { kind: 'line', lineId: second, outcome: 'left', text: 'locked room' });
  await record('11:00', { kind: 'done', text: '' });
  expect(await drawn()).toEqual([first]);
  must(await decide(id, { lines: [first, second].map((lineId) => ({ lineId, assetId: null, cause: 'accident' })) }));
  expect(await drawn()).toEqual([first]);
});
