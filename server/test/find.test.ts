// Finding and reading the register: fragments in any form, threads of many assets, ribbons, filters.
import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { addLine, buildWorld, finding, HEAD, openHouse, type Caller, type TestHouse, type World } from './house.ts';

type Ribbon = {
  cover: { label: string; kind: string; from: string; to: string | null; noticeBy: string | null }[];
  care: { due: string; state: string; orderId: number | null }[];
  trouble: { orderId: number; to: number | null; missed: boolean; notches: number[] }[];
};
let house: TestHouse;
let call: Caller;
let world: World;
let orderId: number;
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  world = await buildWorld(call);
  const other = `${HEAD}\nQuinta Serena Clinic,Vale Serena > Lab 1,"57 Rua Nova, Vale Serena",41.7,-8.5,Europe/Lisbon,Steam steriliser,Ocarro,STC-150,STC150/A-77,R077,own fleet,2025-03-01,2027-03-01,`;
  await call('POST', '/api/register/import', { fileName: 'other.csv', text: other });
  orderId = (
    await call<{ id: number }>('POST', '/api/orders', {
      assetIds: [world.assetIds[0]],
      priority: 1,
      cause: 'wear',
      receivedAt: '2026-11-24T09:00:00Z',
      title: 'Compressor relay clicks',
      requestKey: randomUUID(),
    })
  ).body.id;
});
afterAll(() => house.close());

const find = (q: string) => finding(call)(q);

describe('the finder', () => {
  it.each([
    ['R077', 'R077'],
    ['r07', 'R077'],
    ['stc150a77', 'R077'],
    ['STC150/A', 'R077'],
    ['A-77', 'R077'],
    ['STC-1', 'R077'],
    ['57 rua nova', 'R077'],
    ['Vale Ser', 'R077'],
    ['ULF720Q102', 'Q102'],
    ['ulf720-q1o2', 'Q102'],
    ['steam sterlizer', 'R077'],
    ['ocarro serena', 'R077'],
    ['serena ocarro 150', 'R077'],
    ['nova 57', 'R077'],
    ['r077 vale', 'R077'],
  ])('finds the machine by “%s”', async (q, tag) => {
    expect((await find(q)).asset.map((a) => a.mark)).toContain(tag);
  });

  it('finds customers, places, agreements and orders, each with where it leads', async () => {
    const found = await find('norvela');
    expect(found.customer.map((c) => c.title)).toEqual(['Norvela Diagnostics']);
    expect(found.location[0]).toMatchObject({ title: 'Norvela', under: world.customerId });
    expect(found.agreement).toMatchObject([{ id: world.agreementId, title: 'Full care' }]);
    expect((await find('relay')).order).toMatchObject([
      { id: orderId, title: `WO-${10_000 + orderId} Compressor relay clicks` },
    ]);
    expect((await find(`wo-${10_000 + orderId}`)).order.map((o) => o.id)).toEqual([orderId]);
    expect((await find('AG-2001')).agreement.map((a) => a.id)).toEqual([world.agreementId]);
  });

  it('shows what matched where the row does not say it', async () => {
    const matched = async (q: string) => (await find(q)).asset.find((a) => a.mark === 'R077')?.matched;
    expect(await matched('stc150a77')).toBe('serial STC150/A-77');
    expect(await matched('57 rua nova')).toBe('address 57 Rua Nova, Vale Serena');
    expect(await matched('R077')).toBe('');
    expect(await matched('ocarro serena')).toBe('maker Ocarro');
    const contact = { name: 'Ana Frade', role: null, phone: '+351 912 345 678', email: null, preferred: 'phone' };
    await call('POST', `/api/customers/${world.customerId}/contacts`, contact);
    expect((await find('912 345')).customer).toMatchObject([
      { id: world.customerId, matched: 'Ana Frade, +351 912 345 678' },
    ]);
    expect((await find('ana frade')).customer).toMatchObject([{ matched: 'contact Ana Frade' }]);
    expect((await find('rua nova')).location[0]?.matched).toContain('address 57 Rua Nova');
  });

  it('puts the exact tag first', async () => {
    expect((await find('Q101')).asset[0]?.mark).toBe('Q101');
  });

  it('answers nothing to nonsense, and asks for two letters', async () => {
    expect(await find('zzzzqq')).toEqual({
      asset: [],
      customer: [],
      location: [],
      agreement: [],
      order: [],
      offer: [],
      part: [],
      document: [],
      claim: [],
    });
    expect((await call('GET', '/api/find?q=%20x%20')).status).toBe(422);
  });
});

describe('the list of assets', () => {
  type List = { items: { tag: string; coverNow: string; state: string; ribbon: Ribbon }[]; total: number };
  const list = async (query: string): Promise<List> => (await call<List>('GET', `/api/assets?${query}`)).body;

  it.each([
    ['customer=1', 3],
    ['search=R0', 1],
    ['search=ULF-720', 3],
    ['search=Q10', 3],
    ['search=nothing', 0],
    ['class=2', 1],
    ['customer=1&search=R0', 0],
  ])('filtered by %s holds %i', async (query, n) => {
    const { items, total } = await list(query);
    expect([items.length, total]).toEqual([n, n]);
  });

  it('below a place holds everything under it', async () => {
    const { nodes } = (
      await call<{ nodes: { id: number; name: string }[] }>('GET', `/api/customers/${world.customerId}/tree`)
    ).body;
    const count = async (name: string): Promise<number> =>
      (await list(`location=${nodes.find((n) => n.name === name)?.id}`)).total;
    expect([await count('Norvela'), await count('Floor 0'), await count('Lab 1')]).toEqual([3, 2, 1]);
    expect((await call('GET', '/api/assets?location=9999')).status).toBe(404);
  });

  it('says for each machine what covers it today', async () => {
    const { items } = await list('');
    expect(items.map((a) => [a.tag, a.coverNow])).toEqual([
      ['Q100', 'AG-2001 Full care'],
      ['Q101', 'AG-2001 Full care'],
      ['Q102', 'AG-2001 Full care'],
      ['R077', 'Warranty to 1 Mar 2027'],
    ]);
  });
});

describe('the ribbon', () => {
  const ribbon = async (): Promise<Ribbon> =>
    (await call<{ ribbon: Ribbon }>('GET', `/api/assets/${world.assetIds[0]}`)).body.ribbon;

  it('shows the agreement as a band with its notice date, planned visits, and the open repair past its notch', async () => {
    const shown = await ribbon();
    expect(shown.cover).toEqual([
      {
        label: 'AG-2001 Full care',
        kind: 'agreement',
        from: '2026-01-01',
        to: '2027-03-31',
        agreementId: world.agreementId,
        noticeBy: '2026-12-31',
      },
    ]);
    expect(shown.care.map((c) => [c.due, c.state, c.orderId])).toEqual([
      // Owed by the rule and never raised: the run would still propose it.
      ['2026-10-06', 'not done', null],
      ['2027-01-05', 'planned', null],
    ]);
    expect(shown.trouble).toMatchObject([{ orderId, to: null, missed: true }]);
    expect(shown.trouble[0]?.notches).toHaveLength(3);
  });

  it('shows raised visits once, by their order, and a done one as done', async () => {
    await call('POST', '/api/upkeep/commit', { to: '2026-12-20', only: null });
    const shown = await ribbon();
    expect(shown.care.map((c) => [c.due, c.state, c.orderId !== null])).toEqual([
      ['2026-10-06', 'not done', true],
      ['2027-01-05', 'planned', true],
    ]);
  });

  it('a draft shows as a draft, not as cover', async () => {
    const made = await call<{ id: number }>('POST', '/api/agreements', {
      requestKey: randomUUID(),
      customerId: 2,
      name: 'Believed in force',
      from: '2026-01-01',
      to: null,
      noticeDays: 0,
      reminder: '',
    });
    const asset = (await call<{ items: { id: number }[] }>('GET', '/api/assets?customer=2')).body.items[0]?.id;
    await call(
      'PUT',
      `/api/agreements/${made.body.id}/coverage`,
      addLine({
        reach: { kind: 'assets', assetIds: [asset] },
        shares: { labour: 100, parts: 100, travel: 100 },
        serviceLevelId: null,
        kinds: ['repair'],
        excludedCauses: [],
      }),
    );
    const page = (
      await call<{ ribbon: Ribbon; verdict: { considered: { label: string; taken: boolean; reason: string }[] } }>(
        'GET',
        `/api/assets/${asset}`,
      )
    ).body;
    expect(page.ribbon.cover.map((c) => c.kind).sort()).toEqual(['draft', 'warranty']);
    expect(page.verdict.considered).toContainEqual({
      label: 'AG-2002 Believed in force',
      agreementId: made.body.id,
      taken: false,
      reason: 'the agreement is still in draft',
    });
  });

  it('is the same for an asset in a list of many and on its own page', async () => {
    const inList = (await call<{ items: { id: number; ribbon: Ribbon }[] }>('GET', '/api/assets')).body.items.find(
      (a) => a.id === world.assetIds[0],
    )?.ribbon;
    const onPage = await ribbon();
    expect(inList?.cover).toEqual(onPage.cover);
    expect(inList?.trouble).toEqual(onPage.trouble);
  });
});
