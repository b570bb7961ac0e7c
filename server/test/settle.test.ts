// What an order comes to: parts used, other costs, tax and margin; the parts list and its file.
import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { OrderCharges } from '#api/settle.ts';
import type { PartsEffect } from '#api/stores.ts';
import { addLine, buildWorld, must, openHouse, type Answer, type Caller, type TestHouse, type World } from './house.ts';

let house: TestHouse;
let call: Caller;
let manager: Caller;
let world: World;
/** Covered by a full care, by labour only, by parts only, by nothing. */
let orders: { full: number; mixed: number };
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  manager = await house.as('manager');
  world = await buildWorld(call, { assets: 4, inForce: false });
  const [, second] = world.assetIds;
  const other = await call<{ id: number }>('POST', '/api/agreements', {
    ...{ requestKey: randomUUID(), customerId: world.customerId, name: 'Parts only', from: '2026-01-01', to: null },
    ...{ noticeDays: 0, reminder: '' },
  });
  await call('PUT', `/api/agreements/${other.body.id}/coverage`, {
    changes: [
      ...addLine({
        reach: { kind: 'assets', assetIds: [second] },
        shares: { labour: 0, parts: 100, consumables: 50, travel: 0 },
        excludedParts: ['K2*'],
        serviceLevelId: world.serviceLevelId,
      }).changes,
    ],
  });
  must(await call('POST', `/api/agreements/${other.body.id}/in-force`, { version: 1 }));
  const raise = async (assetIds: (number | undefined)[]): Promise<number> =>
    (
      await call<{ id: number }>('POST', '/api/orders', {
        ...{ requestKey: randomUUID(), assetIds, priority: 2, cause: 'wear', title: 'Warm' },
        receivedAt: '2026-11-23T09:00:00Z',
      })
    ).body.id;
  orders = { full: await raise([world.assetIds[0]]), mixed: await raise([second, world.assetIds[2]]) };
});
afterAll(() => house.close());

const refusedAt = ({ status, body }: Answer): unknown[] => [status, body.errors[0]?.field, body.errors[0]?.code];
const charges = async (id: number, by = call): Promise<OrderCharges> =>
  must(await by<OrderCharges>('GET', `/api/orders/${id}/charges`));
const linesOf = async (id: number): Promise<number[]> =>
  must(await call<{ lines: { id: number }[] }>('GET', `/api/orders/${id}`)).lines.map((l) => l.id);
const partBody = (over: object = {}) => ({
  ...{ number: 'GS-720', name: 'Door gasket', unit: 'piece', listPrice: 8_990, cost: 5_100, taxId: null },
  ...{ consumable: false, serialTracked: false, retired: false, ...over },
});
const part = async (over: object = {}): Promise<number> =>
  must(await call<{ id: number }>('POST', '/api/parts', partBody({ number: randomUUID().slice(0, 8), ...over }))).id;
const use = (order: number, body: object, by = call) =>
  by<{ id: number }>('POST', `/api/orders/${order}/parts`, { requestKey: randomUUID(), thousandths: 1000, ...body });
const tax = (over: object) =>
  manager<{ id: number }>('POST', '/api/taxes', {
    name: 'Standard',
    category: 'S',
    hundredths: 2300,
    isStandard: true,
    ...over,
  });

describe('parts used', () => {
  it('are charged at the price of then, by the decision of their machine, and what it leaves out is the customer’s', async () => {
    const [covered, bare] = await linesOf(orders.mixed);
    const gasket = await part({ number: 'GS-1' });
    const grease = await part({ number: 'GE-1', name: 'Grease', consumable: true, listPrice: 100, cost: 40 });
    const compressor = await part({ number: 'K2-9', name: 'Compressor', listPrice: 100_000, cost: 60_000 });
    for (const [partId, lineId, thousandths] of [
      [gasket, covered, 2000],
      [grease, covered, 1500],
      [compressor, covered, 1000],
      [gasket, bare, 1000],
    ] as const)
      must(await use(orders.mixed, { partId, lineId, thousandths }));
    must(await call('PUT', `/api/parts/${gasket}`, { ...partBody({ number: 'GS-1', listPrice: 1 }), version: 1 }));
    const { charges: all } = await charges(orders.mixed);
    expect(all.map((c) => [c.text?.slice(0, 4), c.lineId, c.list, c.borne, c.pay])).toEqual([
      ['GS-1', covered, 17_980, 17_980, 0],
      ['GE-1', covered, 150, 75, 75],
      ['K2-9', covered, 100_000, 0, 100_000],
      ['GS-1', bare, 8_990, 0, 8_990],
    ]);
  });

  it('kept by serial are used once, by two at once as well', async () => {
    const [lineId] = await linesOf(orders.full);
    const partId = await part({ serialTracked: true });
    expect(refusedAt(await use(orders.full, { partId, lineId }))).toEqual([422, 'serial', 'missing']);
    expect(refusedAt(await use(orders.full, { partId, lineId, serial: 'A1', thousandths: 2000 }))).toEqual([
      422,
      'thousandths',
      'invalid',
    ]);
    const both = await Promise.all([1, 2].map(() => use(orders.full, { partId, lineId, serial: 'A1' })));
    expect(both.map((b) => b.status).sort()).toEqual([200, 409]);
    expect(refusedAt(both.find((b) => b.status === 409) as Answer)).toEqual([409, 'serial', 'taken']);
    const other = must(await use(orders.full, { partId, lineId, serial: 'A2' }));
    const change = await call('PUT', `/api/used-parts/${other.id}`, {
      version: 1,
      lineId,
      thousandths: 1000,
      serial: 'A1',
    });
    expect(refusedAt(change)).toEqual([409, 'serial', 'taken']);
    const first = both.find((b) => b.status === 200)?.body.id;
    must(await call('DELETE', `/api/used-parts/${first}`));
    must(await call('PUT', `/api/used-parts/${other.id}`, { version: 1, lineId, thousandths: 1000, serial: 'A1' }));
    expect((await call('DELETE', `/api/used-parts/${first}`)).status).toBe(404);
  });

  it('sent twice are used once; with something else the key is refused', async () => {
    const [lineId] = await linesOf(orders.full);
    const body = { requestKey: randomUUID(), partId: await part(), lineId };
    const first = must(await use(orders.full, body));
    expect(must(await use(orders.full, body)).id).toBe(first.id);
    expect((await use(orders.full, { ...body, thousandths: 3000 })).status).toBe(409);
    const stale = { version: 7, lineId, thousandths: 500 };
    expect((await call('PUT', `/api/used-parts/${first.id}`, stale)).status).toBe(409);
  });

  it.each<[string, () => Promise<object>, unknown[]]>([
    ['nothing of it', async () => ({ partId: await part(), thousandths: 0 }), [422, 'thousandths', 'invalid']],
    ['less than nothing', async () => ({ partId: await part(), thousandths: -1000 }), [422, 'thousandths', 'invalid']],
    [
      'a part that is not offered any more',
      async () => ({ partId: await part({ retired: true }) }),
      [409, 'partId', 'conflict'],
    ],
    ['a part that is none', () => Promise.resolve({ partId: 987_654 }), [404, 'partId', 'not-found']],
    [
      'a machine of another order',
      async () => ({ partId: await part(), lineId: (await linesOf(orders.mixed))[0] }),
      [404, 'lineId', 'not-found'],
    ],
    [
      'a serial where none is kept',
      async () => ({ partId: await part(), serial: 'A9' }),
      [422, 'serial', 'unsupported'],
    ],
  ])('refuse %s, and book nothing', async (_, over, expected) => {
    const [lineId] = await linesOf(orders.full);
    const before = (await charges(orders.full)).parts.length;
    expect(refusedAt(await use(orders.full, { lineId, ...(await over()) }))).toEqual(expected);
    expect((await charges(orders.full)).parts).toHaveLength(before);
  });

  it('on an order that is called off are none, nor by a technician on somebody else’s', async () => {
    const id = must(
      await call<{ id: number }>('POST', '/api/orders', {
        ...{ requestKey: randomUUID(), assetIds: [world.assetIds[3]], priority: 2, cause: 'wear', title: 'x' },
        receivedAt: '2026-11-23T09:00:00Z',
      }),
    ).id;
    const [lineId] = await linesOf(id);
    const act = (of: object) =>
      call('POST', `/api/orders/${id}/events`, { requestKey: randomUUID(), at: '2026-11-24T09:00:00Z', act: of });
    must(await act({ kind: 'told', technician: 'Somebody from outside' }));
    const partId = await part();
    expect((await use(id, { partId, lineId }, await house.as('technician'))).status).toBe(403);
    must(await act({ kind: 'called off', text: 'x' }));
    expect((await use(id, { partId, lineId })).status).toBe(409);
  });
});

describe('parts that a job plan foresees', () => {
  it('are used in one press as far as they were not yet; those kept by serial are named', async () => {
    const [plain, serial] = [await part({ name: 'Filter' }), await part({ name: 'Board', serialTracked: true })];
    const plan = must(
      await call<{ id: number }>('POST', '/api/job-plans', {
        ...{ name: 'Yearly', minutes: 60, crew: 1, tasks: [], includes: [] },
        parts: [
          { partId: plain, thousandths: 3000 },
          { partId: serial, thousandths: 1000 },
        ],
      }),
    ).id;
    const asked = {
      requestKey: randomUUID(),
      assetIds: [world.assetIds[0]],
      priority: 2,
      cause: 'wear',
      title: 'Yearly',
    };
    const raised = { ...asked, receivedAt: '2026-11-23T09:00:00Z', kind: 'inspection', jobPlanId: plan };
    const { id } = must(await call<{ id: number }>('POST', '/api/orders', raised));
    const [lineId] = await linesOf(id);
    must(
      await call('POST', `/api/orders/${id}/parts`, {
        requestKey: randomUUID(),
        partId: plain,
        lineId,
        thousandths: 1000,
      }),
    );
    const press = () => call<{ booked: number; left: string[] }>('POST', `/api/orders/${id}/planned-parts`);
    const both = await Promise.all([press(), press()]);
    expect(both.map((a) => a.body.booked).toSorted()).toEqual([0, 1]);
    expect(both[0]?.body.left).toHaveLength(1);
    expect((await charges(id)).parts.map((p) => [p.part.id, p.thousandths])).toEqual([
      [plain, 1000],
      [plain, 2000],
    ]);
    const off = {
      requestKey: randomUUID(),
      at: '2026-11-24T09:00:00Z',
      act: { kind: 'called off', text: 'not needed' },
    };
    must(await call('POST', `/api/orders/${id}/events`, off));
    expect(refusedAt(await press())).toEqual([409, null, 'wrong-stage']);
  });
});

describe('other costs', () => {
  const add = (body: object, by = call, order = orders.full) =>
    by<{ id: number }>('POST', `/api/orders/${order}/costs`, {
      ...{ requestKey: randomUUID(), day: '2026-11-24', text: 'Toll', cost: 1_200, price: 1_500, ...body },
    });

  it('are the customer’s unless the office decides that we bear them', async () => {
    const [lineId] = await linesOf(orders.full);
    const technician = await house.as('technician');
    const { id } = must(await add({ lineId }, technician));
    expect(refusedAt(await add({ lineId, oursBecause: 'we were late' }, technician))).toEqual([
      403,
      'oursBecause',
      'not-allowed',
    ]);
    const of = async () => (await charges(orders.full)).charges.find((c) => c.what === 'other' && c.text === 'Toll');
    expect(await of()).toMatchObject({ list: 1_500, cost: 1_200, pay: 1_500, by: null });
    const body = { version: 1, lineId, day: '2026-11-24', text: 'Toll', cost: 1_200, price: 1_500 };
    must(await call('PUT', `/api/costs/${id}`, { ...body, oursBecause: 'we were late' }));
    expect(await of()).toMatchObject({ borne: 1_500, pay: 0, by: 'us: we were late' });
    // Whoever may not decide it leaves it as it was decided.
    const kept = await technician('PUT', `/api/costs/${id}`, {
      ...body,
      version: 2,
      text: 'Toll',
      oursBecause: 'we were late',
    });
    expect(kept.status).toBe(200);
    expect((await technician('PUT', `/api/costs/${id}`, { ...body, version: 3 })).status).toBe(403);
    must(await call('DELETE', `/api/costs/${id}`));
    expect(await of()).toBeUndefined();
  });

  it('take a receipt among the files of their order, and a tax that exists', async () => {
    const [lineId] = await linesOf(orders.full);
    const png = Buffer.from(
      'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
      'base64',
    );
    const file = (subjectId: number) =>
      call<{ id: number }>('POST', `/api/files?subject=order&subjectId=${subjectId}&name=toll.png`, png);
    const receiptId = must(await file(orders.full)).id;
    must(await add({ lineId, receiptId }));
    const foreign = must(await file(orders.mixed)).id;
    expect(refusedAt(await add({ lineId, receiptId: foreign }))).toEqual([404, 'receiptId', 'not-found']);
    expect(refusedAt(await add({ lineId, taxId: 987_654 }))).toEqual([404, 'taxId', 'not-found']);
    expect(refusedAt(await add({ lineId, price: -1 }))).toEqual([422, 'price', 'invalid']);
  });
});

describe('tax and margin', () => {
  it('are of the customer’s amount by category, for those who see money; margin for managers', async () => {
    expect((await charges(orders.mixed)).tax).toBeNull();
    expect(refusedAt(await tax({ category: 'E', hundredths: 5 }))).toEqual([422, 'hundredths', 'invalid']);
    expect(
      (await call('POST', '/api/taxes', { name: 'x', category: 'E', hundredths: 0, isStandard: false })).status,
    ).toBe(403);
    must(await tax({}));
    const reduced = must(await tax({ name: 'Reduced', hundredths: 600, isStandard: false })).id;
    const [, bare] = await linesOf(orders.mixed);
    must(
      await use(orders.mixed, { partId: await part({ taxId: reduced, listPrice: 1_010, cost: 1_000 }), lineId: bare }),
    );
    const seen = await charges(orders.mixed, manager);
    const pay = seen.charges.reduce((sum, c) => sum + (c.pay ?? 0), 0);
    const cost = seen.charges.reduce((sum, c) => sum + (c.cost ?? 0), 0);
    expect(seen.tax?.rows).toEqual([
      { name: 'Standard', hundredths: 2300, taxable: pay - 1_010, tax: Math.round(((pay - 1_010) * 23) / 100) },
      { name: 'Reduced', hundredths: 600, taxable: 1_010, tax: 61 },
    ]);
    expect([seen.margin, (await charges(orders.mixed)).margin]).toEqual([pay - cost, null]);
    const hidden = await charges(orders.mixed, await house.as('technician'));
    expect([hidden.tax, hidden.margin, hidden.charges[0]?.pay, hidden.others]).toEqual([null, null, null, []]);
  });

  it('keep one standard: another takes its place, and the only one does not step down', async () => {
    const items = async () =>
      must(await manager<{ items: { id: number; version: number; isStandard: boolean }[] }>('GET', '/api/taxes')).items;
    const before = (await items()).find((t) => t.isStandard);
    const down = { name: 'Standard', category: 'S', hundredths: 2300, isStandard: false, version: before?.version };
    expect(refusedAt(await manager('PUT', `/api/taxes/${before?.id}`, down))).toEqual([409, 'isStandard', 'conflict']);
    must(await tax({ name: 'New standard', hundredths: 2100 }));
    expect((await items()).filter((t) => t.isStandard)).toHaveLength(1);
    expect((await manager('PUT', `/api/taxes/${before?.id}`, down)).status).toBe(200);
  });
});

describe('the parts list', () => {
  const HEAD = 'number,name,unit,list price,cost,consumable,serial tracked,tax';
  const preview = (text: string) => call<PartsEffect>('POST', '/api/parts/import/preview', { text });
  const load = (text: string) => call<PartsEffect>('POST', '/api/parts/import', { text });
  const found = async (q: string) =>
    must(
      await call<{ items: { number: string; listPrice: number }[]; total: number }>(
        'GET',
        `/api/parts?q=${encodeURIComponent(q)}`,
      ),
    );

  it('is found by fragments of number and name, page by page, without prices for the stores', async () => {
    for (const n of ['X-100', 'X-101', 'X-102'])
      must(await call('POST', '/api/parts', partBody({ number: n, name: `Valve ${n}` })));
    const first = must(
      await call<{ items: { number: string }[]; next: string; total: number }>(
        'GET',
        '/api/parts?q=valve%20x-10&limit=2',
      ),
    );
    expect([first.items.map((p) => p.number), first.total]).toEqual([['X-100', 'X-101'], 3]);
    const second = must(
      await call<{ items: { number: string }[]; next: null }>(
        'GET',
        `/api/parts?q=valve%20x-10&limit=2&after=${first.next}`,
      ),
    );
    expect([second.items.map((p) => p.number), second.next]).toEqual([['X-102'], null]);
    const stores = await house.as('storekeeper');
    const seen = must(await stores<{ items: { listPrice: number | null }[] }>('GET', '/api/parts?q=x-100'));
    expect(seen.items[0]?.listPrice).toBeNull();
    expect((await call('POST', '/api/parts', partBody({ number: 'x-100' }))).status).toBe(409);
    expect((await stores('POST', '/api/parts', partBody({ number: 'X-103' }))).status).toBe(403);
  });

  it('is loaded as the preview said; what comes out goes in again and changes nothing', async () => {
    const text = `${HEAD}\r\nF-1,"Filter, fine",piece,12.50,4,yes,no,\r\nX-100,Valve X-100,piece,99.90,51,no,no,\r\n`;
    const seen = must(await preview(text));
    expect(seen).toMatchObject({ added: 1, changed: 1, unchanged: 0, bad: [] });
    expect((await found('F-1')).total).toBe(0);
    expect(must(await load(text))).toEqual(seen);
    expect((await found('X-100')).items[0]?.listPrice).toBe(9_990);
    expect(must(await load(text))).toMatchObject({ added: 0, changed: 0, unchanged: 2 });
    const out = must(await call<{ text: string }>('GET', '/api/parts.csv?retired=with')).text;
    expect(must(await preview(out))).toMatchObject({ added: 0, changed: 0, bad: [] });
  });

  it('with one wrong row is not loaded at all', async () => {
    const text = `${HEAD}\r\nG-1,Good,piece,1,1,no,no,\r\nG-2,Bad,piece,cheap,1,no,no,none\r\n`;
    expect(must(await preview(text)).bad.map((b) => [b.line, b.column])).toEqual([[3, 'list price']]);
    expect(refusedAt(await load(text))).toEqual([422, 'text', 'invalid']);
    expect((await found('G-1')).total).toBe(0);
    expect(must(await preview(`${HEAD}\r\nG-3,x,piece,1,1,no,no,nothing\r\n`)).bad[0]?.column).toBe('tax');
    expect(refusedAt(await preview('number,"name\r\n'))).toEqual([400, 'text', 'malformed']);
  });
});
