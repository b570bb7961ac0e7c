// Agreements in force: looked after at any time, indexed as values are published, their notice and renewal amended from a day.
import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { AgreementPage, Comparison } from '#api/agreements/index.ts';
import { addLine, agreementInForce, buildWorld, openHouse, type Caller, type TestHouse, type World } from './house.ts';

let house: TestHouse;
let world: World;
let call: Caller;
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  world = await buildWorld(call);
});
afterAll(() => house.close());

type Refused = { errors: { field: string; code: string; message: string }[] };
const page = async (id: number): Promise<AgreementPage> =>
  (await call<AgreementPage>('GET', `/api/agreements/${id}`)).body;

describe('an agreement in force', () => {
  const care = { managerId: null, contactIds: [], costCentre: 'CC-7', reminder: 'Ring first.', signOff: true };

  it('gets another cost centre and reminder without an amendment; a stale or strange change is refused', async () => {
    const id = await agreementInForce(call, world);
    const { version } = await page(id);
    const put = (over: object) =>
      call<Refused>('PUT', `/api/agreements/${id}/administration`, { ...care, version, ...over });
    expect((await put({ version: version - 1 })).status).toBe(409);
    expect((await put({ contactIds: [9999] })).body.errors[0]?.field).toBe('contactIds');
    expect((await put({ managerId: 9999 })).body.errors[0]?.field).toBe('managerId');
    expect((await put({})).status).toBe(200);
    const after = await page(id);
    expect([after.costCentre, after.reminder]).toEqual(['CC-7', 'Ring first.']);
    expect(after.events.map((e) => e.text)).toContain(
      'looked after otherwise: cost centre, reminder, the customer signs for work',
    );
    expect(
      (await (await house.as('dispatcher'))('PUT', `/api/agreements/${id}/administration`, { ...care, version: 9 }))
        .status,
    ).toBe(403);
  });

  it('is billed by a new index value from its day on, and what was before stays', async () => {
    const indexation = { fixedPercent: 20, base: 100_00, values: [] };
    const id = await agreementInForce(call, world, { priceMinor: 100_000, billingPer: 'quarter', indexation });
    const announce = async (from: string, hundredths: number) =>
      call<Refused>('POST', `/api/agreements/${id}/index`, { version: (await page(id)).version, from, hundredths });
    expect((await announce('2026-07-01', 105_00)).status).toBe(200);
    const { periods } = (
      await call<{ periods: { minor: number }[] }>('GET', `/api/agreements/${id}/price?from=2026-01-01&months=12`)
    ).body;
    // 20 % fixed, 80 % follows the index from 100 to 105: 1,000.00 becomes 1,040.00.
    expect(periods.map((p) => p.minor)).toEqual([100_000, 100_000, 104_000, 104_000]);
    expect((await announce('2026-07-01', 106_00)).body.errors).toMatchObject([{ field: 'from', code: 'out-of-order' }]);
    expect((await announce('2026-08-01', 0)).body.errors).toMatchObject([{ field: 'hundredths' }]);
    const plain = await agreementInForce(call, world);
    const { version } = await page(plain);
    const refused = await call('POST', `/api/agreements/${plain}/index`, {
      version,
      from: '2026-07-01',
      hundredths: 1,
    });
    expect(refused.status).toBe(422);
  });

  it('gets another notice period and renewal from a day, shown beside what held before', async () => {
    const id = await agreementInForce(call, world, { noticeDays: 30 });
    const { version } = await page(id);
    const ask = { version, from: '2026-12-01', reason: 'as agreed', changes: [] };
    const empty = await call<Refused>('POST', `/api/agreements/${id}/amendments`, ask);
    expect(empty.body.errors[0]?.field).toBe('changes');
    const terms = { noticeDays: 20, renewalMode: 'renews by itself', renewalMonths: 6 };
    expect((await call('POST', `/api/agreements/${id}/amendments`, { ...ask, ...terms })).status).toBe(200);
    expect(await page(id)).toMatchObject({ ...terms, noticeBy: '2026-12-11' });
    const { header } = (await call<Comparison>('GET', `/api/agreements/${id}/compare?a=2026-11-30&b=2026-12-01`)).body;
    expect(header).toEqual([
      { name: 'notice', before: '30 days', after: '20 days' },
      { name: 'renewal', before: 'to be renegotiated', after: 'renews by itself for 6 months' },
    ]);
  });
});

describe('a second line for what is covered already', () => {
  const second = () => ({
    reach: { kind: 'assets', assetIds: world.assetIds.slice(0, 2) },
    shares: { labour: 50, parts: 0, travel: 0 },
  });
  const draft = async (): Promise<number> => {
    const { body } = await call<{ id: number }>('POST', '/api/agreements', {
      requestKey: randomUUID(),
      customerId: world.customerId,
      name: 'Doubled',
      from: '2026-01-01',
      to: '2026-12-31',
      noticeDays: 0,
      reminder: '',
    });
    await call('PUT', `/api/agreements/${body.id}/coverage`, addLine(second()));
    return body.id;
  };

  it('is asked about by name, and stands when it is meant', async () => {
    const id = await draft();
    const asked = await call<Refused>('PUT', `/api/agreements/${id}/coverage`, addLine(second()));
    expect(asked.body.errors).toMatchObject([{ field: 'changes.0.alongside', code: 'conflict' }]);
    expect(asked.body.errors[0]?.message).toMatch(/^Q10\d, Q10\d: this is covered/);
    const [change] = addLine(second()).changes;
    const meant = { changes: [{ ...change, alongside: true }] };
    expect((await call('PUT', `/api/agreements/${id}/coverage`, meant)).status).toBe(200);
    expect((await page(id)).lines).toHaveLength(4);
  });

  it('is not asked about for other days, for another machine, or for the place of a machine', async () => {
    const id = await draft();
    const add = (line: Record<string, unknown>) => call('PUT', `/api/agreements/${id}/coverage`, addLine(line));
    const one = (n: number) => ({ kind: 'assets', assetIds: [world.assetIds[n]] });
    const shares = { labour: 100, parts: 0, travel: 0 };
    const closed = await add({ reach: one(2), shares, to: '2026-06-30' });
    const after = await add({ reach: one(2), shares, from: '2026-07-01' });
    const fleet = await add({ reach: { kind: 'own fleet' }, shares });
    expect([closed.status, after.status, fleet.status]).toEqual([200, 200, 200]);
    expect((await add({ reach: { kind: 'own fleet' }, shares })).status).toBe(409);
  });

  it('is asked about in an amendment too, at the change it is in', async () => {
    const id = await agreementInForce(call, world);
    const [change] = addLine({ ...second(), from: '2026-12-01' }).changes;
    const body = { version: (await page(id)).version, from: '2026-12-01', reason: 'more', changes: [change] };
    const asked = await call<Refused>('POST', `/api/agreements/${id}/amendments`, body);
    expect(asked.body.errors[0]?.field).toBe('changes.0.alongside');
    const meant = { ...body, changes: [{ ...change, alongside: true }] };
    expect((await call('POST', `/api/agreements/${id}/amendments`, meant)).status).toBe(200);
  });
});
