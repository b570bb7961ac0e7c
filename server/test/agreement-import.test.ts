// Agreements from a file, as drafts; and numbers by the provider's scheme or given by hand.
import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { AgreementPage } from '#api/agreements/index.ts';
import type { ImportPage } from '#api/imports.ts';
import { buildWorld, finding, openHouse, type Caller, type TestHouse, type World } from './house.ts';

let house: TestHouse;
let world: World;
let call: Caller;
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  world = await buildWorld(call);
});
afterAll(() => house.close());

type Refused = { errors: { field: string; code: string }[] };
type Listed = { items: { id: number; number: string; stage: string }[] };
const FILE = [
  'number,customer,name,from,to,price,billed_per,tag,place,class,labour,parts,travel,service_level',
  'SLA 17,Norvela Diagnostics,Taken over,2026-01-01,2026-12-31,"1,250.00",quarter,Q100,,,100,50,0,Cold storage',
  'SLA 17,,,,,,,,Norvela > Floor 1,,100,0,100,',
  'SLA 18,Norvela Diagnostics,Checks,2026-02-01,,,,,,Ultra-low freezer,100,0,0,',
  'SLA 19,Norvela Diagnostics,Wrong,2026-02-01,,,,Q999,,,100,0,0,',
].join('\n');
const hand = async (): Promise<ImportPage> =>
  (await call<ImportPage>('POST', '/api/imports?kind=agreements&name=sla.csv', Buffer.from(FILE))).body;
const numbers = async (): Promise<string[]> =>
  (await call<Listed>('GET', '/api/agreements?limit=200')).body.items.map((a) => a.number);

describe('a file of agreements', () => {
  let importId: number;
  it('is looked through first, then loads as drafts with what they cover; the wrong one is named', async () => {
    const dry = await hand();
    expect(dry.tally).toEqual({
      created: { agreements: 2, 'coverage lines': 3 },
      updated: 0,
      unchanged: 0,
      refused: 1,
    });
    expect(dry.bad).toMatchObject([{ line: 5, column: 'tag' }]);
    expect(await numbers()).toEqual(['AG-2001']);
    importId = dry.id;
    await call('POST', `/api/imports/${dry.id}/run`);
    await expect.poll(numbers, { timeout: 10_000 }).toContain('SLA 18');
    const found = await finding(call)('SLA 17');
    expect(found.agreement).toMatchObject([{ beside: expect.stringContaining('draft') as string }]);
    const page = (await call<AgreementPage>('GET', `/api/agreements/${found.agreement[0]?.id}`)).body;
    expect(page).toMatchObject({ number: 'SLA 17', priceMinor: 125_000, billingPer: 'quarter', currency: 'EUR' });
    expect(page.lines.map((l) => l.terms.shares.labour)).toEqual([100, 100]);
  });

  it('again it creates nothing; undone, its drafts are gone, unless one was changed', async () => {
    expect((await hand()).tally).toMatchObject({ created: {}, unchanged: 3, refused: 1 });
    const { items } = (await call<Listed>('GET', '/api/agreements?limit=200')).body;
    const draft = items.find((a) => a.number === 'SLA 18') as { id: number };
    await call('POST', `/api/agreements/${draft.id}/schedules`, {
      assetIds: 'all covered',
      jobPlanId: world.jobPlanId,
      cadence: { kind: 'rule', rule: 'FREQ=MONTHLY' },
      anchor: '2026-10-01',
      convention: 'none',
      calendarId: null,
      earlyDays: 0,
      lateDays: 0,
      lead: 0,
      leadUnit: 'calendar days',
    });
    const refused = await call<{ detail: string }>('POST', `/api/imports/${importId}/undo`);
    expect([refused.status, refused.body.detail]).toEqual([409, expect.stringContaining('SLA 18')]);
    const { schedules } = (await call<AgreementPage>('GET', `/api/agreements/${draft.id}`)).body;
    for (const s of schedules) await call('DELETE', `/api/agreements/${draft.id}/schedules/${s.id}`);
    expect((await call('POST', `/api/imports/${importId}/undo`)).status).toBe(200);
    expect(await numbers()).toEqual(['AG-2001']);
    expect((await finding(call)('SLA 17')).agreement).toEqual([]);
  });
});

describe('the number of an agreement', () => {
  const write = (over: object = {}) =>
    call<{ id: number } & Refused>('POST', '/api/agreements', {
      requestKey: randomUUID(),
      customerId: world.customerId,
      name: 'Numbered',
      from: '2026-01-01',
      to: null,
      noticeDays: 0,
      reminder: '',
      ...over,
    });
  const numberOf = async (id: number) => (await call<AgreementPage>('GET', `/api/agreements/${id}`)).body.number;

  it('is the next by the scheme, or given by hand and then nobody else’s', async () => {
    const given = await write({ number: ' AG-2003 ' });
    expect(await numberOf(given.body.id)).toBe('AG-2003');
    expect((await write({ number: 'ag-2003' })).body.errors).toMatchObject([{ field: 'number', code: 'taken' }]);
    expect((await write({ number: 'AG;1' })).body.errors).toMatchObject([{ field: 'number', code: 'invalid' }]);
    const next = [await write(), await write()];
    // The one given by hand is stepped over.
    expect([await numberOf(next[0]?.body.id as number), await numberOf(next[1]?.body.id as number)]).toEqual([
      'AG-2002',
      'AG-2004',
    ]);
  });

  it('is given once however many are written at once', async () => {
    const made = await Promise.all(Array.from({ length: 8 }, () => write()));
    const got = await Promise.all(made.map((m) => numberOf(m.body.id)));
    expect(new Set(got).size).toBe(8);
  });

  it('follows a scheme that the manager sets; numbers from before stay', async () => {
    const before = await numbers();
    const manager = await house.as('manager');
    const read = async () =>
      (await call<{ pattern: string; next: number; version: number }>('GET', '/api/agreement-numbering')).body;
    const ask = { pattern: '{year}/{number:4}', next: 7, version: (await read()).version };
    expect((await call('PUT', '/api/agreement-numbering', ask)).status).toBe(403);
    const wrong = await manager<Refused>('PUT', '/api/agreement-numbering', { ...ask, pattern: 'AG' });
    expect(wrong.body.errors).toMatchObject([{ field: 'pattern' }]);
    expect((await manager('PUT', '/api/agreement-numbering', ask)).status).toBe(200);
    expect((await manager('PUT', '/api/agreement-numbering', ask)).status).toBe(409);
    const { id } = (await write()).body;
    expect(await numberOf(id)).toBe('2026/0007');
    expect(await numbers()).toEqual(expect.arrayContaining(before));
    const pdf = await house.app.inject({ method: 'GET', url: `/api/agreements/${id}/agreement.pdf` });
    expect(pdf.statusCode).toBe(401);
  });
});
