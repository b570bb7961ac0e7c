// Purchasing: what waits and what runs low in one list, made into orders by supplier, approved, sent, confirmed, delivered in parts.
import { randomUUID } from 'node:crypto';
import { eq } from 'drizzle-orm';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { NeedOut } from '#api/needs.ts';
import { purchaseNumber, type LowOut, type PurchasePage, type PurchaseRow, type ToBuyOut } from '#api/purchases.ts';
import type { OrderId } from '#core/ids.ts';
import { keepProposals } from '../src/stores/reordering.ts';
import {
  outbox,
  partNeed,
  purchase,
  purchaseFor,
  purchaseLine,
  stock,
  stockHold,
  stockMove,
  storeAct,
  workOrder,
} from '../src/tables.ts';
import { calling, refusedAt } from './calling.ts';
import { buildWorld, must, type Caller, type TestHouse, type World } from './house.ts';
import { openStockHouse, stockLine, type StockHouse } from './stock-house.ts';

let all: StockHouse;
let house: TestHouse;
let desk: Caller;
let keeper: Caller;
let manager: Caller;
let world: World;
let north = 0;
let [mill, works] = [0, 0];
let { addPart, receive, inStore, rebuilt } = {} as StockHouse;
const supplierBody = (over: object = {}) => ({
  ...{
    name: 'Alder Mill',
    email: 'orders@alder.example.org',
    phone: '',
    leadDays: 5,
    note: '',
    retired: false,
    ...over,
  },
});
beforeAll(async () => {
  all = await openStockHouse();
  ({ house, desk, keeper, north } = all);
  ({ addPart, receive, inStore, rebuilt } = all);
  manager = await house.as('manager');
  world = await buildWorld(desk, { assets: 3 });
  mill = must(await desk<{ id: number }>('POST', '/api/suppliers', supplierBody())).id;
  works = must(
    await desk<{ id: number }>('POST', '/api/suppliers', supplierBody({ name: 'Birch Works', email: '' })),
  ).id;
});
afterAll(() => house?.close());

const { raised, page } = calling(() => ({ call: desk, world }));
const line = stockLine;
const offered = (over: object = {}) => ({
  ...{ number: 'AM-77', unitPrice: 850, pack: 1000, leadDays: null, preferred: false, version: 0, ...over },
});
const sells = async (partId: number, supplierId: number, over: object = {}) =>
  must(await desk('PUT', `/api/parts/${partId}/suppliers/${supplierId}`, offered(over)));
const needs = async (partId: number, n: number): Promise<{ order: number; need: NeedOut }> => {
  const order = await raised({});
  const lineId = (await page(order)).lines[0]?.id;
  must(await desk('PUT', `/api/orders/${order}/needs`, { lineId, partId, thousandths: n * 1000, version: 0 }));
  return { order, need: await needOf(order) };
};
const needOf = async (order: number): Promise<NeedOut> => {
  const [need] = must(await desk<{ needs: NeedOut[] }>('GET', `/api/orders/${order}/needs`)).needs;
  if (!need) throw new Error('The order needs nothing.');
  return need;
};
const toBuy = async (partId: number): Promise<ToBuyOut | undefined> =>
  must(await desk<{ items: ToBuyOut[] }>('GET', '/api/purchases/to-buy?limit=200')).items.find(
    (i) => i.part.id === partId,
  );
const buy = (lines: object[], requestKey: string = randomUUID(), by = desk) =>
  by<{ ids: number[] }>('POST', '/api/purchases', { requestKey, lines });
const buyFor = async (partId: number, n: number, supplierId = mill, over: object = {}): Promise<number> => {
  const needsOf = (await toBuy(partId))?.needs.map(({ needId, thousandths }) => ({ needId, thousandths })) ?? [];
  const asked = { partId, storeId: north, supplierId, thousandths: n * 1000, needs: needsOf, ...over };
  return must(await buy([asked])).ids[0] as number;
};
const shown = async (id: number, by = desk): Promise<PurchasePage> =>
  must(await by<PurchasePage>('GET', `/api/purchases/${id}`));
const send = async (id: number, byMail = true, by = desk) =>
  by('POST', `/api/purchases/${id}/send`, { version: (await shown(id)).version, byMail });
const lineOf = async (id: number, partId: number) => {
  const found = (await shown(id)).lines.find((l) => l.part.id === partId);
  if (!found) throw new Error('The part is not on it.');
  return found;
};
type Served = { id: number; for: { orderId: number; thousandths: number }[] };
const came = async (id: number, partId: number, n: number, over: object = {}, by = keeper, body: object = {}) =>
  by<Served>('POST', `/api/purchases/${id}/deliveries`, {
    ...{ requestKey: randomUUID(), text: 'note 9', ...body },
    lines: [{ lineId: (await lineOf(id, partId)).id, thousandths: n * 1000, ...over }],
  });
const waitingFor = async (order: number): Promise<string | null> => {
  const [row] = await house.database.db
    .select()
    .from(workOrder)
    .where(eq(workOrder.id, order as OrderId));
  return row?.waitingFor ?? null;
};
const TABLES = [purchase, purchaseLine, purchaseFor, stock, stockMove, storeAct, partNeed, stockHold];
const rows = (): Promise<unknown[]> => Promise.all(TABLES.map((t) => house.database.db.select().from(t)));

describe('of whom a part is bought', () => {
  it('is kept with their number, price, pack and days; one of them is preferred', async () => {
    const partId = await addPart();
    await sells(partId, mill, { preferred: true });
    await sells(partId, works, { preferred: true, unitPrice: null, pack: 10_000, leadDays: 2 });
    type Offers = { items: { supplier: { id: number }; preferred: boolean; version: number }[] };
    const offers = must(await desk<Offers>('GET', `/api/parts/${partId}/suppliers`)).items;
    expect(offers.map((o) => [o.supplier.id, o.preferred])).toEqual([
      [mill, false],
      [works, true],
    ]);
    expect(refusedAt(await desk('PUT', `/api/parts/${partId}/suppliers/${mill}`, offered()))).toEqual(
      [...[409, null, 'stale'].map((x) => x ?? undefined)].map((x) => x ?? null),
    );
    expect(refusedAt(await desk('POST', '/api/suppliers', supplierBody()))).toEqual([409, 'name', 'taken']);
    must(await desk('DELETE', `/api/parts/${partId}/suppliers/${works}`));
    expect((await desk('DELETE', `/api/parts/${partId}/suppliers/${works}`)).status).toBe(404);
  });
});

describe('what is to be bought', () => {
  it('is what orders wait for, once, of who has it, in whole packs; made into one order for each supplier', async () => {
    const [a, b] = [await addPart({ name: 'Seal' }), await addPart({ name: 'Probe' })];
    await sells(a, mill, { pack: 2000 });
    await sells(b, works);
    const [one, two, other] = [await needs(a, 2), await needs(a, 1), await needs(b, 1)];
    expect(await toBuy(a)).toMatchObject({
      ...{ forNeeds: 3000, propose: 4000, supplier: { id: mill }, store: { id: north } },
      needs: [{ orderId: one.order }, { orderId: two.order }],
    });
    const lines = [a, b].map((partId, i) => ({
      ...{ partId, storeId: north, supplierId: [mill, works][i], thousandths: [4000, 1000][i] },
      needs: [[one, two], [other]][i]?.map((n) => ({ needId: n.need.id, thousandths: n.need.open })),
    }));
    const before = await rows();
    expect(refusedAt(await buy([{ ...lines[0], thousandths: 3000 }]))).toEqual([422, 'lines.0.thousandths', 'invalid']);
    expect(refusedAt(await buy([{ ...lines[0], supplierId: 987_654 }]))[1]).toBe('lines.0.supplierId');
    expect(refusedAt(await buy([{ ...lines[0], storeId: 987_654 }]))[1]).toBe('lines.0.storeId');
    expect((await buy(lines, randomUUID(), keeper)).status).toBe(403);
    expect(await rows()).toEqual(before);
    const key = randomUUID();
    const made = must(await buy(lines, key));
    expect(made.ids).toHaveLength(2);
    expect(must(await buy(lines, key))).toEqual(made);
    expect([await toBuy(a), await toBuy(b)]).toEqual([undefined, undefined]);
    expect((await needOf(one.order)).ordered).toEqual([
      { purchaseId: made.ids[0], thousandths: 2000, promisedOn: null },
    ]);
    // Somebody else looked at the list before it was ordered.
    expect(refusedAt(await buy(lines))).toEqual([409, 'lines.0.needs', 'conflict']);
    // More for the same supplier stands on the same draft, and what was approved is not any more.
    const approved = (await shown(made.ids[0] as number)).version;
    must(await manager('POST', `/api/purchases/${made.ids[0]}/approve`, { version: approved }));
    expect(must(await buy([{ ...lines[0], needs: [] }])).ids).toEqual([made.ids[0]]);
    const draft = await shown(made.ids[0] as number);
    expect([draft.approved, draft.lines[0]?.thousandths]).toEqual([null, 8000]);
  });

  it('ordered by two at the same time is ordered once', async () => {
    const partId = await addPart();
    await sells(partId, mill);
    const { need } = await needs(partId, 2);
    const lines = [
      {
        ...{ partId, storeId: north, supplierId: mill, thousandths: 2000 },
        needs: [{ needId: need.id, thousandths: 2000 }],
      },
    ];
    const asked = await Promise.all([buy(lines), buy(lines), buy(lines)]);
    expect(asked.map((a) => a.status).sort()).toEqual([200, 409, 409]);
    expect(
      await house.database.db
        .select()
        .from(purchaseFor)
        .where(eq(purchaseFor.needId, need.id as never)),
    ).toMatchObject([{ thousandths: 2000 }]);
  });
});

describe('an order', () => {
  it('above the limit is approved by a manager, has prices, and is sent once by mail with its paper', async () => {
    const limit = (approvalLimit: number | null, version: number) => ({
      ...{ planWaiting: false, holdDays: 21, reviewDays: 7, approvalLimit, version },
    });
    must(await manager('PUT', '/api/store-settings', limit(5000, 1)));
    const partId = await addPart();
    await sells(partId, mill, { unitPrice: null });
    await needs(partId, 6);
    const id = await buyFor(partId, 6);
    const own = await lineOf(id, partId);
    const before = await rows();
    expect(refusedAt(await send(id))).toEqual([422, 'lines', 'missing']);
    expect(await rows()).toEqual(before);
    const put = async (over: object) =>
      desk('PUT', `/api/purchases/${id}/parts/${partId}`, {
        ...{
          thousandths: 6000,
          unitPrice: 900,
          promisedOn: null,
          version: (await lineOf(id, partId)).version,
          ...over,
        },
      });
    must(await put({}));
    expect((await desk('PUT', `/api/purchases/${id}/parts/${partId}`, { ...own, promisedOn: null })).status).toBe(409);
    expect((await shown(id)).needsApproval).toBe(true);
    expect((await send(id)).status).toBe(403);
    expect((await desk('POST', `/api/purchases/${id}/approve`, { version: 1 })).status).toBe(403);
    must(await manager('POST', `/api/purchases/${id}/approve`, { version: (await shown(id)).version }));
    must(await send(id));
    expect(refusedAt(await send(id))).toEqual([409, null, 'wrong-stage']);
    const mails = await house.database.db.select().from(outbox).where(eq(outbox.kind, 'purchase order sent'));
    expect(mails.map((m) => [m.address, m.paperName])).toEqual([
      ['orders@alder.example.org', `${purchaseNumber(id)}.pdf`],
    ]);
    // The supplier's usual five days, until they confirm another.
    expect((await lineOf(id, partId)).promisedOn).toBe('2026-11-29');
    expect(refusedAt(await put({ thousandths: 7000 }))).toEqual([409, 'thousandths', 'wrong-stage']);
    must(await put({ unitPrice: 950, promisedOn: '2026-12-04' }));
    expect(await lineOf(id, partId)).toMatchObject({ promisedOn: '2026-12-04', amount: 5700 });
    const open = must(await keeper<{ items: PurchaseRow[] }>('GET', '/api/purchases')).items.find((p) => p.id === id);
    // The first of its lines that is to come.
    expect(open).toMatchObject({ stage: 'sent', promisedOn: '2026-11-29', late: false, total: null });
    const paper = await desk('GET', `/api/purchases/${id}.pdf`);
    expect([paper.status, String(paper.body['text']).startsWith('%PDF')]).toEqual([200, true]);
    must(await manager('PUT', '/api/store-settings', limit(null, 2)));
  });

  it('of which nothing came is called off, and what it was bought for is to be bought again', async () => {
    const partId = await addPart();
    await sells(partId, works);
    const { order } = await needs(partId, 1);
    const id = await buyFor(partId, 1, works);
    expect(refusedAt(await send(id))).toEqual([422, 'byMail', 'missing']);
    must(await send(id, false));
    const { version } = await shown(id);
    must(await desk('POST', `/api/purchases/${id}/call-off`, { version, reason: 'found one' }));
    expect([(await needOf(order)).ordered, (await toBuy(partId))?.forNeeds]).toEqual([[], 1000]);
    expect(refusedAt(await came(id, partId, 1))).toEqual([409, 'stage', 'wrong-stage']);
  });
});

describe('a delivery', () => {
  it('in part is held for whom it was bought, says so, ends their waiting, and closes the order with the last of it', async () => {
    const partId = await addPart();
    await sells(partId, mill, { unitPrice: 800 });
    const [one, two] = [await needs(partId, 1), await needs(partId, 2)];
    const id = await buyFor(partId, 4);
    must(await send(id));
    const first = must(await came(id, partId, 2));
    expect(first.for).toMatchObject([
      { orderId: one.order, thousandths: 1000 },
      { orderId: two.order, thousandths: 1000 },
    ]);
    expect([await waitingFor(one.order), await waitingFor(two.order)]).toEqual([null, 'waiting for parts']);
    expect(await inStore(partId, north)).toMatchObject({ onHand: 2000, reserved: 2000, value: 1600 });
    const body = { requestKey: randomUUID() };
    const second = must(await came(id, partId, 2, {}, keeper, body));
    expect(second.for).toMatchObject([{ orderId: two.order, thousandths: 1000 }]);
    expect(must(await came(id, partId, 2, {}, keeper, body))).toEqual(second);
    expect([await waitingFor(two.order), (await shown(id)).stage]).toEqual([null, 'closed']);
    expect(await inStore(partId, north)).toMatchObject({ onHand: 4000, reserved: 3000 });
    expect((await shown(id)).deliveries.map((d) => [d.text, d.parts[0]?.thousandths])).toEqual([
      ...[
        ['note 9', 2000],
        ['note 9', 2000],
      ],
    ]);
    expect(await rebuilt()).toEqual([]);
  });

  it('of more than was ordered is asked; of what is broken nothing came; the rest is closed short', async () => {
    const partId = await addPart();
    await sells(partId, mill);
    const { order } = await needs(partId, 3);
    const id = await buyFor(partId, 3);
    must(await send(id));
    const before = await rows();
    expect(refusedAt(await came(id, partId, 4))).toEqual([409, 'lines.0.thousandths', 'conflict']);
    expect(refusedAt(await came(id, partId, 0))).toEqual([422, 'lines.0.thousandths', 'invalid']);
    expect(refusedAt(await came(id, partId, 0, { refused: 1000 }))).toEqual([422, 'lines.0.why', 'missing']);
    expect(await rows()).toEqual(before);
    must(await came(id, partId, 1, { refused: 2000, why: 'glass broken' }));
    expect(await lineOf(id, partId)).toMatchObject({ received: 1000, refused: 2000, toCome: 2000 });
    expect((await shown(id)).deliveries[0]?.text).toBe('note 9; wrong: glass broken');
    const { version } = await lineOf(id, partId);
    must(await desk('POST', `/api/purchases/${id}/parts/${partId}/short`, { version, reason: 'not made any more' }));
    expect((await shown(id)).stage).toBe('closed');
    expect([(await needOf(order)).ordered, (await toBuy(partId))?.forNeeds]).toEqual([[], 2000]);
    const more = await buyFor(partId, 2);
    must(await send(more));
    must(await came(more, partId, 5, {}, keeper, { more: true }));
    expect(await inStore(partId, north)).toMatchObject({ onHand: 6000, reserved: 3000 });
  });

  it('invoiced at another price leaves what was issued as it is: the difference is variance', async () => {
    const partId = await addPart();
    await sells(partId, mill, { unitPrice: 800 });
    await needs(partId, 1);
    const id = await buyFor(partId, 3);
    must(await send(id));
    const invoice = async (unitPrice: number) =>
      desk('PUT', `/api/purchases/${id}/parts/${partId}/invoiced`, {
        ...{ version: (await lineOf(id, partId)).version, unitPrice },
      });
    expect(refusedAt(await invoice(900))).toEqual([409, 'unitPrice', 'conflict']);
    must(await came(id, partId, 3));
    must(await invoice(900));
    expect([(await lineOf(id, partId)).variance, (await inStore(partId, north))?.value]).toEqual([300, 2400]);
    expect((await shown(id, keeper)).lines[0]).toMatchObject({ unitPrice: null, variance: null });
  });

  it('taken by two at once takes each once, whatever is sent again', async () => {
    const partId = await addPart();
    await sells(partId, mill);
    const id = await buyFor(partId, 20);
    must(await send(id));
    const asked = await Promise.all(Array.from({ length: 12 }, () => came(id, partId, 2)));
    expect(asked.filter((a) => a.status === 200)).toHaveLength(10);
    expect(await inStore(partId, north)).toMatchObject({ onHand: 20_000 });
    expect((await shown(id)).stage).toBe('closed');
  });
});

describe('what runs low', () => {
  const look = () => keepProposals(house.database, house.now);
  const lowOf = async (partId: number): Promise<LowOut | undefined> =>
    must(await desk<{ items: LowOut[] }>('GET', '/api/stores/low?limit=200')).items.find((i) => i.part.id === partId);
  const keep = async (partId: number, minimum: number, maximum: number) =>
    must(
      await desk('PUT', `/api/stores/${north}/shelves/${partId}`, {
        ...{ version: 0, bin: '', minimum: minimum * 1000, maximum: maximum * 1000 },
      }),
    );

  it('is proposed with its curve, counts what comes and what work takes, and goes once it is ordered', async () => {
    const partId = await addPart();
    await sells(partId, mill, { pack: 5000 });
    must(await receive(north, [line(partId, 3)]));
    await keep(partId, 4, 12);
    await look();
    expect(await lowOf(partId)).toMatchObject({
      ...{ free: 3000, minimum: 4000, propose: 5000, belowOn: '2026-11-24', leadDays: 5, needed: 0, coming: 0 },
      ...{ supplier: { id: mill, unitPrice: 850 }, curve: Array.from({ length: 13 }, () => 3000) },
    });
    expect(await toBuy(partId)).toMatchObject({ forNeeds: 0, toReorder: 5000, propose: 5000 });
    await needs(partId, 5);
    await look();
    // Three are held, two more are taken today.
    expect(await lowOf(partId)).toMatchObject({ free: 0, needed: 2000, propose: 10_000 });
    expect(await toBuy(partId)).toMatchObject({ forNeeds: 2000, toReorder: 10_000, propose: 10_000 });
    await buyFor(partId, 10);
    await look();
    expect([await lowOf(partId), await toBuy(partId)]).toEqual([undefined, undefined]);
  });

  it('comes to whole packs that reach the minimum, for any numbers', async () => {
    const some = fc.record({
      lies: fc.nat(9),
      minimum: fc.integer({ min: 1, max: 9 }),
      more: fc.nat(9),
      pack: fc.integer({ min: 1, max: 7 }),
    });
    const made: { partId: number; of: { lies: number; minimum: number; more: number; pack: number } }[] = [];
    for (const of of fc.sample(some, { numRuns: 12, seed: 8 })) {
      const partId = await addPart();
      await sells(partId, mill, { pack: of.pack * 1000 });
      if (of.lies > 0) must(await receive(north, [line(partId, of.lies)]));
      await keep(partId, of.minimum, of.minimum + of.more);
      made.push({ partId, of });
    }
    await look();
    for (const { partId, of } of made) {
      const low = await lowOf(partId);
      expect(low === undefined).toBe(of.lies >= of.minimum);
      if (!low) continue;
      const after = of.lies + low.propose / 1000;
      expect([low.propose % (of.pack * 1000), after >= of.minimum]).toEqual([0, true]);
      expect(after <= of.minimum + of.more || after - of.pack < of.minimum).toBe(true);
    }
  });
});
