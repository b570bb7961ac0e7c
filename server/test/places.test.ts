// Places and cover: what is inherited, what a coverage line reaches, and what a shared site keeps apart.
import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { addLine, buildWorld, finding, HEAD, openHouse, type Caller, type TestHouse, type World } from './house.ts';

type Node = {
  id: number;
  name: string;
  zone: string | null;
  address: string | null;
  version: number;
  parentId: number | null;
  assets: number;
};
let house: TestHouse;
let call: Caller;
let world: World;
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  world = await buildWorld(call);
});
afterAll(() => house.close());

const tree = async (customer = world.customerId): Promise<Node[]> =>
  (await call<{ nodes: Node[] }>('GET', `/api/customers/${customer}/tree`)).body.nodes;
const nodeOf = async (name: string): Promise<Node> => (await tree()).find((n) => n.name === name) as Node;
const change = (node: Node, over: Record<string, unknown>) =>
  call('PUT', `/api/locations/${node.id}`, {
    version: node.version,
    name: node.name,
    address: node.address,
    zone: node.zone,
    ...over,
  });
type AssetPage = {
  zone: { value: string; from: string } | null;
  address: { value: string; from: string } | null;
  path: { name: string }[];
  verdict: { sentence: string };
  events: { text: string }[];
  version: number;
  state: string;
};
const assetPage = async (id = world.assetIds[0]): Promise<AssetPage> =>
  (await call<AssetPage>('GET', `/api/assets/${id}`)).body;

describe('what a place gives to what stands below it', () => {
  it('the nearest address and zone on the way up, with their source', async () => {
    expect(await assetPage()).toMatchObject({
      zone: { value: 'Europe/Lisbon', from: 'Norvela' },
      address: { value: '72 Rua do Cais, Norvela', from: 'Lab 0' },
    });
    const lab = await nodeOf('Lab 0');
    expect((await change(lab, { address: '' })).status).toBe(200);
    expect((await assetPage()).address).toBeNull();
    const floor = await nodeOf('Floor 0');
    await change(floor, { address: 'Back entrance 3', zone: 'Europe/Madrid' });
    expect(await assetPage()).toMatchObject({
      zone: { value: 'Europe/Madrid', from: 'Floor 0' },
      address: { value: 'Back entrance 3', from: 'Floor 0' },
    });
    await change(await nodeOf('Floor 0'), { zone: '' });
    expect((await assetPage()).zone?.from).toBe('Norvela');
  });

  it('a new name, below it too', async () => {
    await change(await nodeOf('Norvela'), { name: 'Norvela Norte' });
    expect((await assetPage()).path.map((p) => p.name)[0]).toBe('Norvela Norte');
    const found = await finding(call)('Lab 2');
    expect(found.location[0]?.title).toBe('Norvela Norte > Floor 0 > Lab 2');
    await change(await nodeOf('Norvela Norte'), { name: 'Norvela' });
  });

  it.each([
    ['zone', { zone: 'Europe/Atlantis' }, 422],
    ['name', { name: ' ' }, 422],
  ])('refuses a bad %s at its field', async (field, over, status) => {
    const answer = await change(await nodeOf('Norvela'), over);
    expect([answer.status, answer.body.errors[0]?.field]).toEqual([status, field]);
  });

  it('a stale change is refused with what stands now', async () => {
    const node = await nodeOf('Floor 1');
    await change(node, { address: 'First' });
    const late = await call<{ current: { address: string } }>('PUT', `/api/locations/${node.id}`, {
      version: node.version,
      name: node.name,
      address: 'Second',
      zone: null,
    });
    expect([late.status, late.body.code, late.body.current.address]).toEqual([409, 'stale', 'First']);
  });
});

describe('a shared site', () => {
  let tenant: number;
  it('gives a second customer only the place its machines stand at', async () => {
    const text = `${HEAD}\nQuinta Serena Clinic,Norvela > Floor 0 > Lab 0,,,,,Incubator,Vessmark,INC-240,INC-1,R1,customer,,,\nQuinta Serena Clinic,Norvela > Floor 0 > Lab 0,,,,,Ultra-low freezer,Tindrel,ULF-1,ULF-R2,R2,customer,,,`;
    const imported = await call<{ assets: number; locations: number }>('POST', '/api/register/import', {
      fileName: 'tenant.csv',
      text,
    });
    expect(imported.body).toMatchObject({ assets: 2, locations: 0, bad: [] });
    tenant = (await call<{ items: { id: number; name: string }[] }>('GET', '/api/customers')).body.items.find(
      (c) => c.name === 'Quinta Serena Clinic',
    )?.id as number;
    expect((await tree(tenant)).map((n) => n.name)).toEqual(['Norvela', 'Floor 0', 'Lab 0']);
    expect((await tree(tenant)).find((n) => n.name === 'Lab 0')?.assets).toBe(2);
    expect((await nodeOf('Lab 0')).assets).toBe(1);
  });

  it('a line over everything below a location covers its own customer’s machines only', async () => {
    const site = await nodeOf('Norvela');
    const made = await call<{ id: number }>('POST', '/api/agreements', {
      requestKey: randomUUID(),
      customerId: world.customerId,
      name: 'Whole site',
      from: '2026-01-01',
      to: null,
      noticeDays: 0,
      reminder: '',
    });
    await call(
      'PUT',
      `/api/agreements/${made.body.id}/coverage`,
      addLine({
        reach: { kind: 'location', locationId: site.id },
        shares: { labour: 50, parts: 0, travel: 50 },
        serviceLevelId: world.serviceLevelId,
        kinds: ['repair'],
        excludedCauses: [],
      }),
    );
    const page = await call<{ assetsTotal: number; lines: { label: string; assetsReached: number }[] }>(
      'GET',
      `/api/agreements/${made.body.id}`,
    );
    expect(page.body).toMatchObject({
      assetsTotal: 3,
      lines: [{ label: 'Everything below Norvela', assetsReached: 3 }],
    });
    await call('POST', `/api/agreements/${made.body.id}/in-force`, { version: 1 });
    const theirs = (await call<{ items: { id: number; tag: string }[] }>('GET', `/api/assets?customer=${tenant}`)).body
      .items;
    expect((await assetPage(theirs[0]?.id)).verdict.sentence).toBe(
      'Not covered: chargeable at list rates, no promise.',
    );
    // The asset's own line comes before the location's; what it leaves out falls to the location's.
    expect((await assetPage()).verdict.sentence).toBe(
      'Covered by AG-2001 Full care and AG-2002 Whole site: labour 100 %, parts 80 %, travel 50 %.',
    );
  });

  it('a class line reaches the class at its customer', async () => {
    const { classes } = (await call<{ classes: { id: number; name: string }[] }>('GET', '/api/reference')).body;
    const freezers = classes.find((c) => c.name === 'Ultra-low freezer')?.id;
    const made = await call<{ id: number }>('POST', '/api/agreements', {
      requestKey: randomUUID(),
      customerId: tenant,
      name: 'Freezers',
      from: '2026-01-01',
      to: null,
      noticeDays: 0,
      reminder: '',
    });
    await call(
      'PUT',
      `/api/agreements/${made.body.id}/coverage`,
      addLine({
        reach: { kind: 'class', assetClassId: freezers },
        shares: { labour: 100, parts: 0, travel: 0 },
        serviceLevelId: world.serviceLevelId,
        kinds: ['repair'],
        excludedCauses: [],
      }),
    );
    const page = await call<{ lines: { label: string; assetsReached: number }[] }>(
      'GET',
      `/api/agreements/${made.body.id}`,
    );
    expect(page.body.lines).toMatchObject([{ label: 'Every ultra-low freezer of the customer', assetsReached: 1 }]);
    const foreign = await call(
      'PUT',
      `/api/agreements/${made.body.id}/coverage`,
      addLine({
        reach: { kind: 'assets', assetIds: world.assetIds },
        shares: { labour: 0, parts: 0, travel: 0 },
        serviceLevelId: null,
        kinds: ['repair'],
        excludedCauses: [],
      }),
    );
    expect([foreign.status, foreign.body.errors[0]?.field]).toEqual([422, 'changes.0.reach.assetIds']);
  });
});

describe('an asset’s life', () => {
  it('a retired asset keeps its history and stops its schedule with a reason', async () => {
    const before = await assetPage(world.assetIds[2]);
    const [, , row] = (
      await call<{ items: { serial: string; tag: string; model: string }[] }>(
        'GET',
        `/api/assets?customer=${world.customerId}`,
      )
    ).body.items;
    expect(
      (
        await call('PUT', `/api/assets/${world.assetIds[2]}`, {
          version: before.version,
          serial: row?.serial,
          tag: row?.tag,
          model: row?.model,
          state: 'retired',
          warrantyUntil: null,
        })
      ).status,
    ).toBe(200);
    const page = await assetPage(world.assetIds[2]);
    expect(page.state).toBe('retired');
    expect(page.events[0]?.text).toBe('state in service → retired');
    const run = await call<{ nothing: { code: string; assetId: number }[] }>('GET', '/api/upkeep?to=2026-12-20');
    expect(run.body.nothing).toContainEqual(
      expect.objectContaining({ code: 'asset retired', assetId: world.assetIds[2] }),
    );
  });

  it('a place without a zone is named by the run and by the checklist', async () => {
    const text = `${HEAD}\nZoneless Ltd,Nowhere > Room,,,,,Incubator,Vessmark,INC-240,INC-9,Z9,customer,,,`;
    await call('POST', '/api/register/import', { fileName: 'z.csv', text });
    const customer = (await call<{ items: { id: number; name: string }[] }>('GET', '/api/customers')).body.items.find(
      (c) => c.name === 'Zoneless Ltd',
    );
    const asset = (await call<{ items: { id: number }[] }>('GET', `/api/assets?customer=${customer?.id}`)).body
      .items[0];
    const made = await call<{ id: number }>('POST', '/api/agreements', {
      requestKey: randomUUID(),
      customerId: customer?.id,
      name: 'Checks',
      from: '2026-01-01',
      to: null,
      noticeDays: 0,
      reminder: '',
    });
    await call(
      'PUT',
      `/api/agreements/${made.body.id}/coverage`,
      addLine({
        reach: { kind: 'assets', assetIds: [asset?.id] },
        shares: { labour: 0, parts: 0, travel: 0 },
        serviceLevelId: null,
        kinds: ['preventive'],
        excludedCauses: [],
      }),
    );
    const answer = await call('POST', `/api/agreements/${made.body.id}/in-force`, { version: 1 });
    expect(answer.body.detail).toContain('stand at a place without a time zone');
    // A call is never refused: the asker's zone stands in.
    const order = await call<{ id: number }>('POST', '/api/orders', {
      assetIds: [asset?.id],
      priority: 1,
      cause: 'wear',
      receivedAt: '2026-11-24T09:00:00Z',
      title: 'Gas alarm',
      requestKey: randomUUID(),
    });
    expect(order.status).toBe(200);
    expect((await call<{ zone: string; address: unknown }>('GET', `/api/orders/${order.body.id}`)).body).toMatchObject({
      zone: 'Europe/Lisbon',
      address: null,
    });
  });
});
