// The terms of agreements: allowances drawn and given back, amendments that hold from their day, prices, renewals, and questions about cover.
import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { AgreementPage, Comparison } from '#api/agreements/index.ts';
import {
  agreementInForce,
  agreementPage,
  buildWorld,
  endAgreement,
  openHouse,
  type Caller,
  type OwnTerms,
  type TestHouse,
  type World,
} from './house.ts';

let house: TestHouse;
let world: World;
let call: Caller;
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  world = await buildWorld(call);
});
afterAll(() => house.close());

const page = (id: number, on?: string): Promise<AgreementPage> => agreementPage(call, id, on);

const inForce = (...own: OwnTerms): Promise<number> => agreementInForce(call, world, ...own);
const end = (id: number): Promise<void> => endAgreement(call, id);
const raise = (over: Record<string, unknown> = {}) =>
  call<{ id: number }>('POST', '/api/orders', {
    assetIds: [world.assetIds[0]],
    priority: 1,
    cause: 'wear',
    receivedAt: house.now ? new Date(house.now).toISOString() : '',
    title: 'Warm',
    requestKey: randomUUID(),
    ...over,
  });
const verdictOf = async (orderId: number): Promise<string> =>
  (await call<{ lines: [{ verdict: { sentence: string } }] }>('GET', `/api/orders/${orderId}`)).body.lines[0].verdict
    .sentence;
const act = (orderId: number, body: Record<string, unknown>) =>
  call('POST', `/api/orders/${orderId}/events`, {
    at: new Date(house.now).toISOString(),
    requestKey: randomUUID(),
    act: body,
  });

describe('call-outs a year', () => {
  it('are drawn with each order, refused when used up with the day, and given back when an order is called off', async () => {
    const id = await inForce({}, {}, [{ unit: 'call-outs', amount: 2, period: 'agreement year', carriesOver: false }]);
    const orders = [await raise(), await raise(), await raise()].map((o) => o.body.id);
    expect(await verdictOf(orders[0] as number)).toContain('Own terms');
    // The third is borne by the other agreement, which covers the same machine with parts at 80 %.
    expect(await verdictOf(orders[2] as number)).toContain('parts 80 %');
    const cover = await call<{ considered: { agreementId: number; reason: string }[] }>(
      'GET',
      `/api/cover?asset=${world.assetIds[0]}&at=2026-11-24T10:00:00Z&kind=repair&cause=wear`,
    );
    expect(cover.body.considered.find((c) => c.agreementId === id)?.reason).toBe(
      'its 2 call-outs for the agreement year are used up since 24 Nov 2026',
    );
    expect((await page(id)).allowances[0]).toMatchObject({
      granted: 2,
      drawn: 2,
      draws: [{ amount: 1 }, { amount: 1 }],
    });
    await act(orders[0] as number, { kind: 'called off', text: 'a mistake' });
    const after = (await page(id)).allowances[0];
    expect(after).toMatchObject({ drawn: 1, usedUpOn: null });
    expect(after?.draws.map((d) => d.returned).sort()).toEqual([false, true]);
    await end(id);
  });

  it('are never drawn below zero by orders raised at once', async () => {
    const id = await inForce({}, {}, [{ unit: 'call-outs', amount: 3, period: 'term', carriesOver: false }]);
    const raised = await Promise.all(Array.from({ length: 8 }, () => raise()));
    expect(raised.map((r) => r.status)).toEqual(Array(8).fill(200));
    expect((await page(id)).allowances[0]).toMatchObject({ granted: 3, drawn: 3 });
    await end(id);
  });

  it('refuse an amount below what is drawn, at its field, and a unit named twice', async () => {
    const id = await inForce({}, {}, [{ unit: 'call-outs', amount: 2, period: 'term', carriesOver: false }]);
    await raise();
    await raise();
    const { version } = await page(id);
    const lower = { version, allowances: [{ unit: 'call-outs', amount: 1, period: 'term', carriesOver: false }] };
    expect((await call('PUT', `/api/agreements/${id}/allowances`, lower)).body.errors).toMatchObject([
      { field: 'allowances.0.amount', message: '2 call-outs are drawn already; give at least that.' },
    ]);
    const twice = { version, allowances: [lower.allowances[0], lower.allowances[0]] };
    expect((await call('PUT', `/api/agreements/${id}/allowances`, twice)).body.code).toBe('taken');
    await end(id);
  });
});

describe('hours a year', () => {
  it('are drawn by the labour of finished orders, and no more than is left', async () => {
    // The older of two agreements that bear labour in full: its hours are drawn.
    const id = await inForce({ from: '2025-06-01' }, {}, [
      { unit: 'hours', amount: 90, period: 'agreement year', carriesOver: false },
    ]);
    const order = (await raise()).body.id;
    for (const kind of ['arrived', 'restored']) await act(order, { kind });
    await act(order, {
      kind: 'done',
      text: '',
      effort: { fault: null, labourMinutes: 120, partsCost: null, otherCost: null },
    });
    expect((await page(id)).allowances[0]).toMatchObject({ granted: 90, drawn: 90 });
    // Labour is left out from now on; parts go on.
    const next = (await raise()).body.id;
    expect(await verdictOf(next)).toContain('AG-');
    const cover = await call<{ considered: { agreementId: number; reason: string }[] }>(
      'GET',
      `/api/cover?asset=${world.assetIds[0]}&at=2026-11-24T10:00:00Z&kind=repair&cause=wear`,
    );
    expect(cover.body.considered.find((c) => c.agreementId === id)?.reason).toContain('labour left out');
    await end(id);
  });
});

describe('an amendment', () => {
  const change = (lineIds: number[], terms: Record<string, unknown>) => ({ act: 'change', lineIds, terms });

  it('holds from its day; before it everything is as it was, and both are shown side by side', async () => {
    const id = await inForce({ to: '2027-12-31', priceMinor: 100_00 });
    const [line] = (await page(id)).lines;
    const body = {
      from: '2027-01-01',
      reason: 'parts shared from the new year',
      changes: [change([line?.id as number], { shares: { labour: 100, parts: 50, consumables: 0, travel: 100 } })],
      priceMinor: 80_00,
    };
    const preview = await call<{
      warnings: string[];
      comparison: Comparison;
      covers: { before: string; after: string }[];
    }>('POST', `/api/agreements/${id}/amendments/preview`, body);
    expect(preview.status).toBe(200);
    expect(preview.body.warnings).toEqual([]);
    expect(preview.body.comparison.lines[0]?.fields).toEqual([
      { name: 'parts', before: '100 %', after: '50 %' },
      { name: 'consumables', before: '100 %', after: '0 %' },
    ]);
    expect(preview.body.comparison.header).toEqual([
      { name: 'price', before: 'EUR 100.00 per month', after: 'EUR 80.00 per month' },
    ]);
    // The other agreement bears the larger share of parts from then on.
    expect(preview.body.covers[0]?.before).toContain('parts 100 %');
    expect(preview.body.covers[0]?.after).toContain('parts 80 %');
    expect((await page(id)).amendments).toHaveLength(1);

    const { version } = await page(id);
    expect((await call('POST', `/api/agreements/${id}/amendments`, { version, ...body })).status).toBe(200);
    expect((await call('POST', `/api/agreements/${id}/amendments`, { version, ...body })).body.code).toBe('stale');
    const partsOn = async (on: string): Promise<number[]> =>
      (await page(id, on)).lines.map((l) => l.terms.shares.parts);
    expect(await partsOn('2026-12-31')).toEqual([100]);
    expect(await partsOn('2027-01-01')).toEqual([50]);
    // Today shows what holds and what is to come.
    expect((await page(id)).lines.map((l) => [l.terms.from, l.terms.to])).toEqual([
      ['2026-01-01', '2026-12-31'],
      ['2027-01-01', null],
    ]);
    const compared = await call<Comparison>('GET', `/api/agreements/${id}/compare?a=2026-06-01&b=2027-06-01`);
    expect(compared.body.lines).toEqual(preview.body.comparison.lines);
    const price = await call<{ months: { month: string; minor: number }[]; total: number }>(
      'GET',
      `/api/agreements/${id}/price?from=2026-11-01&months=4`,
    );
    expect(price.body.months).toEqual([
      { month: '2026-11', minor: 100_00 },
      { month: '2026-12', minor: 100_00 },
      { month: '2027-01', minor: 80_00 },
      { month: '2027-02', minor: 80_00 },
    ]);
    await end(id);
  });

  it('removes a line from a day on', async () => {
    const id = await inForce({}, { kinds: ['repair', 'preventive'] });
    const [line] = (await page(id)).lines;
    const { version } = await page(id);
    const removed = await call('POST', `/api/agreements/${id}/amendments`, {
      version,
      from: '2026-12-01',
      reason: 'sold',
      changes: [{ act: 'remove', lineIds: [line?.id] }],
    });
    expect(removed.status).toBe(200);
    expect((await page(id, '2026-11-30')).lines).toHaveLength(1);
    expect((await page(id, '2026-12-01')).lines).toEqual([]);
    await end(id);
  });

  it.each<[string, Record<string, unknown>, string | null]>([
    ['a date that is none', { from: 'soon' }, 'from'],
    ['a date outside the term', { from: '2027-02-01' }, 'from'],
    ['nothing to change', { changes: [] }, 'changes'],
    ['a line of another agreement', { changes: [change([1], { kinds: ['repair'] })] }, 'changes.0.lineIds'],
    ['a term that ends before it', { changes: [], to: '2026-06-01' }, 'to'],
  ])('with %s is refused at its field, and nothing is kept', async (_, over, field) => {
    const id = await inForce();
    const before = await page(id);
    const body = {
      version: before.version,
      from: '2026-12-01',
      reason: 'to see',
      changes: [change([before.lines[0]?.id as number], { kinds: ['repair'] })],
      ...over,
    };
    const answer = await call('POST', `/api/agreements/${id}/amendments`, body);
    expect(answer.body.errors.map((e) => e.field)).toEqual([field]);
    expect((await page(id)).version).toBe(before.version);
    await end(id);
  });

  it('of a draft is refused, and one before the newest', async () => {
    const id = await inForce();
    const amend = async (from: string) => {
      const { version } = await page(id);
      return call('POST', `/api/agreements/${id}/amendments`, {
        version,
        from,
        reason: 'x',
        changes: [],
        priceMinor: 1,
      });
    };
    expect((await amend('2026-12-01')).status).toBe(200);
    expect((await amend('2026-11-30')).body.code).toBe('conflict');
    expect((await amend('2026-12-01')).status).toBe(200);
    await end(id);
    expect((await amend('2026-12-02')).body.code).toBe('wrong-stage');
  });
});

describe('a suspended agreement', () => {
  it.each([
    [false, 'parts 80 %'],
    [true, 'parts 100 %'],
  ])('whose cover goes on: %s', async (suspendedCover, said) => {
    const id = await inForce({ suspendedCover });
    const { version } = await page(id);
    await call('POST', `/api/agreements/${id}/stage`, { version, to: 'suspended', reason: 'unpaid' });
    expect(await verdictOf((await raise()).body.id)).toContain(said);
    await end(id);
  });
});

describe('a changed service level', () => {
  type Level = { id: number; version: number; name: string; holdsFrom: string | null; past: { heldUntil: string }[] };
  const level = async (): Promise<Level> =>
    (await call<{ serviceLevels: Level[] }>('GET', '/api/reference')).body.serviceLevels.find(
      (l) => l.id === world.serviceLevelId,
    ) as Level;
  const promiseAt = async (at: string): Promise<string> =>
    (
      await call<{ promise: string }>(
        'GET',
        `/api/cover?asset=${world.assetIds[1]}&at=${at}&kind=repair&cause=wear&priority=1`,
      )
    ).body.promise;
  it('holds from its day; orders before it keep what they were promised', async () => {
    const before = await promiseAt('2026-11-30T10:00:00Z');
    expect(before).toContain('Respond by Mon 30 Nov 2026 10:30');
    const body = {
      version: (await level()).version,
      name: 'Cold storage',
      pauses: [],
      targets: { 1: { response: { measure: 'elapsed', minutes: 60 } } },
      holdsFrom: '2026-12-01',
    };
    expect((await call('PUT', `/api/service-levels/${world.serviceLevelId}`, body)).status).toBe(200);
    expect(await promiseAt('2026-11-30T10:00:00Z')).toBe(before);
    expect(await promiseAt('2026-12-01T10:00:00Z')).toContain('Respond by Tue 1 Dec 2026 11:00');
    expect(await level()).toMatchObject({ holdsFrom: '2026-12-01', past: [{ heldUntil: '2026-11-30' }] });
    const again = { ...body, version: (await level()).version };
    expect((await call('PUT', `/api/service-levels/${world.serviceLevelId}`, again)).body.errors[0]?.field).toBe(
      'holdsFrom',
    );
    expect((await call('PUT', `/api/service-levels/${world.serviceLevelId}`, body)).body.code).toBe('stale');
  });
});

describe('the reminder of an agreement', () => {
  it('is shown before an order is raised from it, and on the order', async () => {
    const id = await inForce({ reminder: 'Ring the clinic first.' });
    const ask = {
      assetIds: [world.assetIds[0]],
      priority: 1,
      cause: 'wear',
      receivedAt: new Date(house.now).toISOString(),
    };
    const said = [`AG-${2000 + id}: Ring the clinic first.`];
    const preview = await call<{ reminders: string[] }>('POST', '/api/orders/preview', ask);
    expect(preview.body.reminders).toEqual(said);
    const order = await call<{ reminders: string[] }>('GET', `/api/orders/${(await raise()).body.id}`);
    expect(order.body.reminders).toEqual(said);
    await end(id);
  });
});

describe('the end of an agreement', () => {
  it('shows what is open under it, and calls it off only when so decided', async () => {
    const id = await inForce();
    const order = (await raise()).body.id;
    const open = await call<{ orders: { id: number }[]; ordersTotal: number }>(
      'GET',
      `/api/agreements/${id}/open-work`,
    );
    expect(open.body).toMatchObject({ orders: [{ id: order }], ordersTotal: 1 });
    const { version } = await page(id);
    await call('POST', `/api/agreements/${id}/stage`, { version, to: 'ended', reason: 'sold', openOrders: 'call off' });
    expect((await call<{ stage: string }>('GET', `/api/orders/${order}`)).body.stage).toBe('called off');
    expect((await page(id)).events[0]?.text).toBe('in force → ended: sold; 1 open orders called off');
  });
});

describe('the end of an agreement, refused', () => {
  it.each([
    ['by an old version', (version: number) => ({ version: version - 1, to: 'ended' })],
    ['because it is suspended already', (version: number) => ({ version, to: 'suspended' })],
  ])('%s calls nothing off', async (_, ask) => {
    const id = await inForce();
    const order = (await raise()).body.id;
    const { version } = await page(id);
    await call('POST', `/api/agreements/${id}/stage`, { version, to: 'suspended', reason: 'a pause' });
    const said = { reason: 'sold', openOrders: 'call off', ...ask(version + 1) };
    expect((await call('POST', `/api/agreements/${id}/stage`, said)).status).toBe(409);
    expect((await call<{ stage: string }>('GET', `/api/orders/${order}`)).body.stage).toBe('raised');
    await end(id);
  });
});

describe('a new agreement', () => {
  const terms = {
    months: 12,
    noticeDays: 60,
    renewalMode: 'ends',
    renewalMonths: 12,
    billingPer: 'quarter',
    billingTiming: 'in arrears',
    reminder: '',
    shares: { labour: 100, parts: 0, consumables: 0, travel: 0 },
    discounts: [],
    kinds: ['repair'],
    excludedCauses: [],
    excludedParts: [],
    allowances: [{ unit: 'hours', amount: 720, period: 'agreement year', carriesOver: true }],
  };
  const header = { name: 'New', from: '2026-12-01', to: null, noticeDays: 0, reminder: '' };
  const write = (over: Record<string, unknown>) =>
    call<{ id: number }>('POST', '/api/agreements', {
      requestKey: randomUUID(),
      customerId: world.customerId,
      ...header,
      ...over,
    });

  it('takes the counted rights of a type', async () => {
    const type = await call<{ id: number }>('POST', '/api/agreement-types', { name: 'Twelve hours', terms });
    expect(type.status).toBe(200);
    expect((await page((await write({ typeId: type.body.id })).body.id)).allowances).toMatchObject([
      { unit: 'hours', amount: 720, carriesOver: true },
    ]);
    expect((await write({ typeId: 9999 })).body.errors[0]?.field).toBe('typeId');
    const stale = { version: 9, name: 'Twelve hours', terms };
    expect((await call('PUT', `/api/agreement-types/${type.body.id}`, stale)).body.code).toBe('stale');
  });

  it('takes coverage, counted rights and schedules of another as a copy', async () => {
    const source = await page(world.agreementId);
    const copy = await page((await write({ copyOf: world.agreementId })).body.id);
    expect(copy.stage).toBe('draft');
    expect(copy.lines.map((l) => [l.label, l.terms.shares, l.terms.from])).toEqual(
      source.lines.map((l) => [l.label, l.terms.shares, '2026-12-01']),
    );
    expect(copy.schedules).toHaveLength(source.schedules.length);
  });

  it.each<[string, Record<string, unknown>, string]>([
    ['a contact of nobody', { contactIds: [9999] }, 'contactIds'],
    ['an unknown account manager', { managerId: 9999 }, 'managerId'],
    ['a currency that is none', { currency: 'euro' }, 'currency'],
    ['an index of nothing', { indexation: { fixedPercent: 20, base: 0, values: [] } }, 'indexation.base'],
    ['an agreement to copy that is not there', { copyOf: 9999 }, 'copyOf'],
  ])('with %s is refused at its field', async (_, over, field) => {
    expect((await write(over)).body.errors.map((e) => e.field)).toEqual([field]);
  });
});
