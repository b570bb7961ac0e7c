// The terms of agreements: allowances drawn and given back, amendments that hold from their day, prices, renewals, and questions about cover.
import { randomUUID } from 'node:crypto';
import { eq, like } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { AgreementPage, Comparison } from '#api/agreements/index.ts';
import type { UpkeepRun } from '#api/upkeep.ts';
import { asInstant, type LocalDate } from '#core/time/index.ts';
import { sweepRenewals } from '../src/agreements/index.ts';
import { agreement } from '../src/tables.ts';
import { agreementInForce, buildWorld, openHouse, type Caller, type TestHouse, type World } from './house.ts';

let house: TestHouse;
let world: World;
let call: Caller;
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  world = await buildWorld(call);
});
afterAll(() => house.close());

const page = async (id: number, on?: string): Promise<AgreementPage> =>
  (await call<AgreementPage>('GET', `/api/agreements/${id}${on ? `?on=${on}` : ''}`)).body;

const inForce = (
  header: Record<string, unknown> = {},
  line: Record<string, unknown> = {},
  rights: readonly Record<string, unknown>[] = [],
): Promise<number> => agreementInForce(call, world, header, line, rights);
const end = async (id: number): Promise<void> => {
  const { version } = await page(id);
  await call('POST', `/api/agreements/${id}/stage`, { version, to: 'ended', reason: 'the test is over' });
};
const raise = (over: Record<string, unknown> = {}) =>
  call<{ id: number }>('POST', '/api/orders', {
    assetId: world.assetIds[0],
    priority: 1,
    cause: 'wear',
    receivedAt: house.now ? new Date(house.now).toISOString() : '',
    title: 'Warm',
    requestKey: randomUUID(),
    ...over,
  });
const verdictOf = async (orderId: number): Promise<string> =>
  (await call<{ verdict: { sentence: string } }>('GET', `/api/orders/${orderId}`)).body.verdict.sentence;
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
      assetId: world.assetIds[0],
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

describe('questions over the whole register', () => {
  const ask = (question: string, on: string, more = '') =>
    call<{ items: { id: number; answer: string }[]; total: number; asked: number }>(
      'GET',
      `/api/cover/all?question=${encodeURIComponent(question)}&on=${on}${more}`,
    );
  it('name the machines without cover on a day, and those covered twice', async () => {
    expect((await ask('no cover', '2026-11-24')).body.total).toBe(0);
    const later = await ask('no cover', '2027-04-01');
    expect([later.body.total, later.body.asked]).toEqual([world.assetIds.length, world.assetIds.length]);
    expect((await ask('covered twice', '2026-11-24')).body.total).toBe(0);
    const id = await inForce();
    const twice = await ask('covered twice', '2026-11-24', `&customer=${world.customerId}`);
    expect(twice.body.items).toMatchObject([
      { id: world.assetIds[0], answer: expect.stringContaining('Own terms') as string },
    ]);
    await end(id);
  });

  it('name the warranties that end with no agreement to follow', async () => {
    const [first] = world.assetIds;
    await house.database.pool.query('UPDATE asset SET warranty_until = ? WHERE id = ?', ['2027-04-10', first]);
    expect((await ask('warranty ends', '2027-03-20', '&days=30')).body.items).toMatchObject([
      { id: first, answer: 'warranty ends on 10 Apr 2027, no agreement follows' },
    ]);
    expect((await ask('warranty ends', '2027-03-20', '&days=20')).body.total).toBe(0);
    await house.database.pool.query('UPDATE asset SET warranty_until = NULL WHERE id = ?', [first]);
  });
});

describe('what a place or a caller is entitled to', () => {
  type Many = { asked: number; answers: { verdict: { sentence: string }; machines: { id: number; tag: string }[] }[] };
  const ask = (of: string, more = '') =>
    call<Many & { errors: { field: string }[] }>(
      'GET',
      `/api/cover/many?at=2026-11-24T09:00:00Z&kind=repair&cause=wear&${of}${more}`,
    );

  it('is said machine by machine, those with the same answer together, as each alone would be answered', async () => {
    const id = await inForce();
    const { asked, answers } = (await ask(`customer=${world.customerId}`)).body;
    expect(asked).toBe(world.assetIds.length);
    expect(answers.map((a) => a.machines.length)).toEqual([world.assetIds.length - 1, 1]);
    for (const { verdict, machines } of answers)
      for (const m of machines) {
        const alone = await call<{ sentence: string }>(
          'GET',
          `/api/cover?asset=${m.id}&at=2026-11-24T09:00:00Z&kind=repair&cause=wear`,
        );
        expect(alone.body.sentence).toBe(verdict.sentence);
      }
    await end(id);
    expect((await ask(`customer=${world.customerId}`)).body.answers).toHaveLength(1);
  });

  it('counts the machines below a place, at any depth; an unknown place or nobody is refused', async () => {
    const tree = (
      await call<{ nodes: { id: number; name: string }[] }>('GET', `/api/customers/${world.customerId}/tree`)
    ).body.nodes;
    const site = tree.find((l) => l.name === 'Norvela')?.id;
    const lab = tree.find((l) => l.name === 'Lab 1')?.id;
    expect((await ask(`location=${site}`)).body.asked).toBe(world.assetIds.length);
    expect((await ask(`location=${lab}`)).body.asked).toBe(1);
    expect((await ask('location=99999')).body.errors[0]?.field).toBe('location');
    expect((await ask('')).status).toBe(422);
  });
});

describe('the coverage matrix and what leaves the house', () => {
  it('shows each machine with what it is given, counts gaps and double cover, and looks at a draft as if it were in force', async () => {
    type Matrix = { items: { id: number; reach: string | null; others: string[] }[]; counts: Record<string, number> };
    const id = await inForce();
    const { body } = await call<Matrix>('GET', `/api/agreements/${id}/matrix`);
    expect(body.counts).toEqual({ all: 3, covered: 1, without: 0, twice: 1 });
    expect(body.items.filter((i) => i.reach !== null).map((i) => i.id)).toEqual([world.assetIds[0]]);
    const twice = await call<Matrix>('GET', `/api/agreements/${id}/matrix?show=${encodeURIComponent('covered twice')}`);
    expect(twice.body.items.map((i) => i.others.length)).toEqual([1]);
    await house.database.db
      .update(agreement)
      .set({ stage: 'draft' })
      .where(eq(agreement.id, id as never));
    expect((await call<Matrix>('GET', `/api/agreements/${id}/matrix`)).body.counts.covered).toBe(1);
    await house.database.db
      .update(agreement)
      .set({ stage: 'ended' })
      .where(eq(agreement.id, id as never));
  });

  it('the agreement prints as a PDF, and the coverage schedule is a CSV of every machine', async () => {
    const pdf = await call<{ text: string }>('GET', `/api/agreements/${world.agreementId}/agreement.pdf`);
    expect(pdf.body.text.startsWith('%PDF-')).toBe(true);
    const csv = await call<{ text: string }>(
      'GET',
      `/api/agreements/${world.agreementId}/coverage.csv?on=${'2026-11-24' as LocalDate}`,
    );
    const lines = csv.body.text.trim().split('\r\n');
    expect(lines[0]).toContain('tag,serial,class,model,place,covered as,labour %');
    expect(lines).toHaveLength(1 + world.assetIds.length);
  });
});

describe('visits', () => {
  it('draw their allowance in the run, one after the other, and the verdict is kept with the order', async () => {
    const id = await inForce({ to: '2027-12-31' }, { kinds: ['preventive'] }, [
      { unit: 'visits', amount: 1, period: 'term', carriesOver: false },
    ]);
    await house.database.pool.query(
      `INSERT INTO schedule (agreement_id, asset_id, job_plan_id, rule, anchor, convention, early_days, late_days, lead_days, lead_unit)
       VALUES (?, ?, ?, 'FREQ=WEEKLY;COUNT=2', '2026-11-25', 'none', 1, 1, 30, 'calendar days')`,
      [id, world.assetIds[0], world.jobPlanId],
    );
    const visits = ['2026-11-25', '2026-12-02'];
    const [[row]] = (await house.database.pool.query('SELECT MAX(id) AS id FROM schedule')) as unknown as [
      { id: number }[],
    ];
    const only = visits.map((nominal) => ({ scheduleId: row?.id, nominal }));
    const preview = await call<UpkeepRun>('GET', '/api/upkeep?to=2026-12-05');
    const ours = preview.body.proposals.filter((p) => p.scheduleId === row?.id);
    // The other agreement bears the second one, so it is not chargeable.
    expect(ours.map((p) => p.beyond)).toEqual([null, null]);
    const run = await call<{ raised: number }>('POST', '/api/upkeep/commit', { to: '2026-12-05', only });
    expect(run.body.raised).toBe(2);
    expect((await page(id)).allowances[0]).toMatchObject({ granted: 1, drawn: 1 });
    const orders = await call<{ items: { id: number; due: string }[] }>('GET', '/api/orders?kind=preventive&limit=2');
    const said = await Promise.all(orders.body.items.map((o) => verdictOf(o.id)));
    expect(said.filter((s) => s.includes('Own terms'))).toHaveLength(1);
    await end(id);
  });
});

describe('visits beyond a counted right', () => {
  it('are named before they are raised, by due date whatever the order of schedules; the order says why it is chargeable', async () => {
    const alone = await openHouse();
    const caller = await alone.as('coordinator');
    const own = await buildWorld(caller, { assets: 2, inForce: false });
    await caller('PUT', `/api/agreements/${own.agreementId}/allowances`, {
      version: (await caller<{ version: number }>('GET', `/api/agreements/${own.agreementId}`)).body.version,
      allowances: [{ unit: 'visits', amount: 3, period: 'agreement year', carriesOver: false }],
    });
    const { version } = (await caller<{ version: number }>('GET', `/api/agreements/${own.agreementId}`)).body;
    await caller('POST', `/api/agreements/${own.agreementId}/in-force`, { version });
    await alone.database.pool.query(
      "UPDATE schedule SET rule = 'FREQ=MONTHLY;BYMONTHDAY=10', lead_days = 0 WHERE id = 1",
    );
    await alone.database.pool.query(
      "UPDATE schedule SET rule = 'FREQ=MONTHLY;BYMONTHDAY=5', lead_days = 0 WHERE id = 2",
    );
    const run = await caller<UpkeepRun>('GET', '/api/upkeep?to=2026-12-05');
    const told = (p: { due: string; scheduleId: number; beyond: string | null }) => [p.due, p.scheduleId, p.beyond];
    expect(run.body.proposals.map(told)).toEqual([
      ['2026-10-05', 2, null],
      ['2026-10-12', 1, null],
      ['2026-11-05', 2, null],
      ['2026-11-10', 1, '4th of 3: chargeable'],
    ]);
    expect(run.body.counts.beyond).toBe(1);
    const raised = await caller<{ raised: number }>('POST', '/api/upkeep/commit', { to: '2026-12-05', only: null });
    expect(raised.body.raised).toBe(run.body.proposals.length);
    type Listed = { items: { id: number; due: string }[] };
    const orders = (await caller<Listed>('GET', '/api/orders?kind=preventive')).body.items;
    for (const { due, beyond } of run.body.proposals) {
      const id = orders.find((o) => o.due === due)?.id;
      const order = (
        await caller<{ verdict: { sentence: string }; visit: { beyond: string | null } }>('GET', `/api/orders/${id}`)
      ).body;
      expect([due, order.verdict.sentence.startsWith('Not covered'), order.visit.beyond !== null]).toEqual([
        due,
        beyond !== null,
        beyond !== null,
      ]);
    }
    await alone.close();
  });
});

// Last: sweeping in times to come ends what the other tests stand on.
describe('renewal', () => {
  const at = (text: string) => asInstant(text);
  it('happens by itself the day after the notice date, with a version of its own, and not twice', async () => {
    const id = await inForce({ renewalMode: 'renews by itself', renewalMonths: 12, noticeDays: 30, priceMinor: 50_00 });
    expect(await sweepRenewals(house.database, at('2026-12-01T10:00:00Z'), 'http://stavok.example.org')).toMatchObject({
      renewed: 0,
    });
    const renewals = await call<{ items: { id: number; sentence: string }[] }>('GET', '/api/renewals?days=60');
    expect(renewals.body.items.find((i) => i.id === id)?.sentence).toContain('notice by 1 Dec 2026, in 7 days');
    expect(await sweepRenewals(house.database, at('2026-12-02T10:00:00Z'), 'http://stavok.example.org')).toMatchObject({
      renewed: 1,
    });
    expect(await sweepRenewals(house.database, at('2026-12-02T10:00:00Z'), 'http://stavok.example.org')).toMatchObject({
      renewed: 0,
    });
    const after = await page(id);
    expect([after.to, after.noticeBy, after.events[0]?.who]).toEqual(['2027-12-31', '2027-12-01', null]);
    await end(id);
  });

  it('comes to a due one however many wait for a decision ahead of it', async () => {
    const [row] = await house.database.db.select().from(agreement).limit(1);
    const { id: _, ...header } = row as typeof agreement.$inferSelect;
    const waiting = Array.from({ length: 1200 }, (_each, i) => ({
      ...header,
      number: `WAITS-${i}`,
      requestKey: `waits-${i}-for-a-decision`,
      stage: 'in force' as const,
      renewalMode: 'to be renegotiated' as const,
      termTo: '2027-12-31' as LocalDate,
      noticeBy: '2026-01-01' as LocalDate,
    }));
    await house.database.db.insert(agreement).values(waiting);
    const id = await inForce({ renewalMode: 'renews by itself', renewalMonths: 12, noticeDays: 30 });
    expect(await sweepRenewals(house.database, at('2026-12-02T10:00:00Z'), 'http://stavok.example.org')).toMatchObject({
      renewed: 1,
      ended: 0,
    });
    expect((await page(id)).to).toBe('2027-12-31');
    await house.database.db.delete(agreement).where(like(agreement.number, 'WAITS-%'));
    await end(id);
  });

  it('accepted, every price changes from the new term on; declined, it ends after its last day', async () => {
    const id = await inForce({ priceMinor: 100_00 }, { priceMinor: 10_05 });
    const accept = { version: (await page(id)).version, decision: 'accepted', months: 6, priceChange: 350, reason: '' };
    expect((await call('POST', `/api/agreements/${id}/renewal`, accept)).status).toBe(200);
    const after = await page(id, '2027-01-01');
    expect([after.to, after.priceMinor, after.lines[0]?.terms.priceMinor]).toEqual(['2027-06-30', 103_50, 10_40]);
    expect((await page(id, '2026-12-31')).lines[0]?.terms.priceMinor).toBe(10_05);

    const decline = { version: after.version, decision: 'declined', reason: 'they close' };
    expect((await call('POST', `/api/agreements/${id}/renewal`, decline)).status).toBe(200);
    expect((await page(id)).renewal).toBe('Declined: it ends on 30 Jun 2027.');
    await sweepRenewals(house.database, at('2027-06-30T10:00:00Z'), 'http://stavok.example.org');
    expect((await page(id)).stage).toBe('in force');
    await sweepRenewals(house.database, at('2027-07-01T10:00:00Z'), 'http://stavok.example.org');
    expect((await page(id)).stage).toBe('ended');
  });
});
