// The tree of places over the routes: moving, merging, retiring and sharing; what is shown before is what happens.
import { eq, like } from 'drizzle-orm';
import { afterAll, beforeEach, describe, expect, it } from 'vitest';
import type { PlacePage, TreeEffect, TreeNode } from '#api/places.ts';
import type { AssetPage } from '#api/register.ts';
import { asset, audit, location } from '../src/tables.ts';
import { buildWorld, finding, openHouse, type Caller, type TestHouse, type World } from './house.ts';

let house: TestHouse;
let call: Caller;
let world: World;
beforeEach(async () => {
  await (house as TestHouse | undefined)?.close();
  house = await openHouse();
  call = await house.as('coordinator');
  world = await buildWorld(call);
});
afterAll(() => house.close());

const tree = async (): Promise<TreeNode[]> =>
  (await call<{ nodes: TreeNode[] }>('GET', `/api/customers/${world.customerId}/tree`)).body.nodes;
const named = async (name: string): Promise<TreeNode> => (await tree()).find((n) => n.name === name) as TreeNode;
const place = async (id: number): Promise<PlacePage> => (await call<PlacePage>('GET', `/api/locations/${id}`)).body;
const add = async (over: object): Promise<number> =>
  (
    await call<{ id: number }>('POST', '/api/locations', {
      parentId: null,
      customerId: world.customerId,
      name: 'South',
      address: '9 South Road',
      zone: 'Europe/Madrid',
      ...over,
    })
  ).body.id;
const found = async (q: string): Promise<string[]> => (await finding(call)(q)).asset.map((a) => a.mark);

describe('moving a place', () => {
  it('shows what changes, changes just that, and is undone by moving back', async () => {
    const [floor, south] = [await named('Floor 0'), await add({ calendarId: world.calendarId })];
    const before = await house.database.db.select().from(location).where(like(location.fullName, 'Norvela%'));
    const { body: effect } = await call<TreeEffect>('POST', `/api/locations/${floor.id}/move/preview`, {
      parentId: south,
      version: floor.version,
    });
    expect([effect.places, effect.assets]).toEqual([3, 2]);
    expect(effect.changes).toContainEqual({
      place: 'Norvela > Floor 0',
      field: 'time zone',
      before: 'Europe/Lisbon',
      after: 'Europe/Madrid',
    });
    expect(effect.changes).toContainEqual({
      place: 'Norvela > Floor 0',
      field: 'calendar',
      before: null,
      after: 'Office hours',
    });
    expect(await house.database.db.select().from(location).where(like(location.fullName, 'Norvela%'))).toEqual(before);
    expect(
      (await call('POST', `/api/locations/${floor.id}/move`, { parentId: south, version: floor.version })).status,
    ).toBe(200);
    const lab = await named('Lab 0');
    expect((await place(lab.id)).inherited.zone).toEqual({ value: 'Europe/Madrid', from: 'South' });
    expect((await place(lab.id)).path.map((p) => p.name)).toEqual(['South', 'Floor 0', 'Lab 0']);
    expect(await found('south')).toContain('Q100');
    const moved = await named('Floor 0');
    const norvela = await named('Norvela');
    await call('POST', `/api/locations/${floor.id}/move`, { parentId: norvela.id, version: moved.version });
    const after = await house.database.db.select().from(location).where(like(location.fullName, 'Norvela%'));
    const plain = (rows: typeof after) => rows.map(({ version: _, ...r }) => r);
    expect(plain(after)).toEqual(plain(before));
    expect(await found('south')).toEqual([]);
  });

  it('keeps it with whoever could use it through the places above', async () => {
    const floor = await named('Floor 1');
    await call('POST', `/api/locations/${floor.id}/move`, { parentId: null, version: floor.version });
    expect((await place(floor.id)).customers.map((c) => c.name)).toEqual(['Norvela Diagnostics']);
    expect((await tree()).map((n) => n.name)).toContain('Floor 1');
  });

  it('below itself, beside a namesake and with a stale version is refused, and nothing changes', async () => {
    const [norvela, floor, lab] = [await named('Norvela'), await named('Floor 0'), await named('Lab 0')];
    const south = await add({});
    await add({ parentId: south, name: 'Floor 0' });
    const before = await tree();
    const move = (id: number, parentId: number | null, version: number) =>
      call('POST', `/api/locations/${id}/move`, { parentId, version });
    expect((await move(floor.id, lab.id, floor.version)).body.errors[0]?.field).toBe('parentId');
    expect((await move(norvela.id, norvela.id, norvela.version)).status).toBe(409);
    expect((await move(floor.id, south, floor.version)).body.code).toBe('taken');
    expect((await move(lab.id, south, lab.version + 1)).body.code).toBe('stale');
    expect(await tree()).toEqual(before);
  });

  it('is for coordinators, managers and administrators', async () => {
    const floor = await named('Floor 0');
    const technician = await house.as('technician');
    for (const path of ['move', 'move/preview'])
      expect(
        (await technician('POST', `/api/locations/${floor.id}/${path}`, { parentId: null, version: 1 })).status,
      ).toBe(403);
  });
});

describe('merging places', () => {
  it('brings assets and children together and retires the empty one, as the preview said', async () => {
    const twin = await add({ name: 'Norvela site' });
    await add({ parentId: twin, name: 'Floor 0', address: '', zone: '' });
    const [from, norvela] = [await named('Norvela'), await place(twin)];
    const preview = await call<TreeEffect>('POST', `/api/locations/${from.id}/merge/preview`, {
      into: twin,
      version: from.version,
    });
    expect([preview.body.assets, preview.status]).toEqual([3, 200]);
    expect(
      (await call('POST', `/api/locations/${from.id}/merge`, { into: norvela.id, version: from.version })).status,
    ).toBe(200);
    const nodes = await tree();
    expect(
      nodes
        .filter((n) => n.retiredOn !== null)
        .map((n) => n.name)
        .sort(),
    ).toEqual(['Floor 0', 'Norvela']);
    const [moved] = await house.database.db.select().from(asset).where(eq(asset.tag, 'Q100'));
    expect((await place(moved?.locationId as number)).path.map((p) => p.name)).toEqual([
      'Norvela site',
      'Floor 0',
      'Lab 0',
    ]);
    const told = await house.database.db.select().from(audit).where(eq(audit.subject, 'location'));
    expect(told.map((t) => t.text)).toContain('merged Norvela into Norvela site');
  });
  it('across customers is refused', async () => {
    const { id } = (
      await call<{ id: number }>('POST', '/api/customers', {
        name: 'Other',
        serviceAddress: null,
        creditDays: null,
        creditLimit: null,
        overSince: null,
      })
    ).body;
    const theirs = await add({ customerId: id, name: 'Their site' });
    const norvela = await named('Norvela');
    const answer = await call('POST', `/api/locations/${norvela.id}/merge`, { into: theirs, version: norvela.version });
    expect([answer.status, answer.body.errors[0]?.field]).toEqual([409, 'into']);
  });
});

describe('a place', () => {
  it('is retired only when nothing stands there, and comes back', async () => {
    const norvela = await named('Norvela');
    expect(
      (await call('POST', `/api/locations/${norvela.id}/retire`, { version: norvela.version, retire: true })).body
        .detail,
    ).toContain('3 assets stand there');
    const id = await add({ name: 'Old store' });
    expect((await call('POST', `/api/locations/${id}/retire`, { version: 1, retire: true })).status).toBe(200);
    expect((await place(id)).retiredOn).toBe('2026-11-24');
    expect(
      (
        await call('POST', '/api/locations', {
          parentId: id,
          customerId: world.customerId,
          name: 'Bay',
          address: null,
          zone: null,
        })
      ).status,
    ).toBe(409);
    expect((await call('POST', `/api/locations/${id}/retire`, { version: 2, retire: false })).status).toBe(200);
    expect((await place(id)).retiredOn).toBeNull();
  });
  it.each<[string, object, string]>([
    ['half a position', { latitude: 41.5 }, 'longitude'],
    ['a latitude off the globe', { latitude: 95, longitude: 2 }, 'latitude'],
    ['an unknown zone', { zone: 'Moon/Sea' }, 'zone'],
    ['an unknown calendar', { calendarId: 999 }, 'calendarId'],
    ['the name of its neighbour', { name: 'norvela' }, 'name'],
  ])('with %s is refused at its field', async (_, over, field) => {
    const answer = await call('POST', '/api/locations', {
      parentId: null,
      customerId: world.customerId,
      name: 'New',
      address: null,
      zone: 'Europe/Lisbon',
      ...over,
    });
    expect(answer.body.errors[0]?.field).toBe(field);
  });
  it('a schedule without a calendar of its own goes by the place’s', async () => {
    await house.database.pool.query('UPDATE schedule SET calendar_id = NULL');
    const norvela = await named('Norvela');
    const due = async () =>
      (await call<AssetPage>('GET', `/api/assets/${world.assetIds[0]}`)).body.ribbon.care.map((c) => c.due);
    const plain = await due();
    const closed = {
      ...(await call<{ calendars: { id: number; version: number }[] }>('GET', '/api/reference')).body.calendars[0],
    };
    const body = {
      version: closed.version,
      name: 'Office hours',
      zone: 'Europe/Lisbon',
      weekly: [1, 2, 3, 4, 5, 6, 7].map((d) => (d <= 5 ? [{ from: 540, to: 1080 }] : [])),
      closed: [{ date: plain[0], name: 'Closed' }],
      holdsFrom: '2026-01-01',
      extraOpen: [],
    };
    expect((await call('PUT', `/api/calendars/${closed.id}`, body)).status).toBe(200);
    expect(await due()).toEqual(plain);
    const change = {
      version: norvela.version,
      name: 'Norvela',
      address: norvela.address,
      zone: norvela.zone,
      latitude: norvela.latitude,
      longitude: norvela.longitude,
      calendarId: closed.id,
    };
    expect((await call('PUT', `/api/locations/${norvela.id}`, change)).status).toBe(200);
    expect((await due())[0]).not.toBe(plain[0]);
  });
  it('sites with a position come as GeoJSON, longitude first (RFC 7946)', async () => {
    type Sites = { features: { geometry: { coordinates: number[] }; properties: { name: string } }[] };
    const { body } = await call<Sites & { text?: string }>('GET', `/api/customers/${world.customerId}/sites.geojson`);
    const sites = body.text === undefined ? body : (JSON.parse(body.text) as Sites);
    expect(sites.features[0]).toMatchObject({
      geometry: { coordinates: [-8.4, 42.2] },
      properties: { name: 'Norvela', assets: 3 },
    });
  });
});
