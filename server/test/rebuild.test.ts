// Rows that follow from events are built again with the same result, after random acts and at any later hour; what was tampered with
// is named and put right. The acts are drawn blindly, so that many are refused: a refused one changes nothing.
import { randomUUID } from 'node:crypto';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { ASSET_STATES } from '#core/assets/index.ts';
import { addDays, asInstant, asLocalDate, HOUR, instant, type LocalDate } from '#core/time/index.ts';
import { migrateDatabase } from '../src/platform/database.ts';
import { rebuild, type Rebuilt } from '../src/platform/derived.ts';
import { DERIVED } from '../src/rooms.ts';
import { asset, assetEvent, location, workOrder } from '../src/tables.ts';
import {
  agreementInForce,
  buildWorld,
  freshDatabase,
  migrationsUpTo,
  openHouse,
  type Caller,
  type TestHouse,
  type World,
} from './house.ts';

const TODAY = asLocalDate('2026-11-24');

let house: TestHouse;
let call: Caller;
let world: World;
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  world = await buildWorld(call, { assets: 6, minutes: 60 });
  await agreementInForce(call, world);
});
afterAll(() => house.close());

const check = (hours = 0, mend = false): Promise<Rebuilt[]> =>
  rebuild(house.database, DERIVED, instant(house.now + hours * HOUR), mend);
const differing = async (hours = 0): Promise<string[]> => (await check(hours)).flatMap((r) => r.differing);
const at = <T>(list: readonly T[], n: number): T => list[n % list.length] as T;

type AssetStep = (n: { a: number; b: number; days: number }) => Promise<number>;

async function machines() {
  const { db } = house.database;
  return { assets: await db.select().from(asset).orderBy(asset.id), places: await db.select().from(location) };
}
const pastDay = (days: number): LocalDate => addDays(TODAY, -days);
const live = async (kind: string, { a, b, days }: { a: number; b: number; days: number }, place: boolean) => {
  const { assets, places } = await machines();
  const one = at(assets, a);
  const act = { kind, ...(place && { locationId: at(places, b).id, parentId: null }) };
  const body = { version: one.version, act, on: pastDay(days), text: '' };
  return (await call('POST', `/api/assets/${one.id}/life`, body)).status;
};

const STEPS: Readonly<Record<string, AssetStep>> = {
  async register({ a, b, days }) {
    const { assets, places } = await machines();
    const like = at(assets, a);
    const mark = randomUUID().slice(0, 8);
    const body = {
      ...{ customerId: like.customerId, classId: like.classId, maker: like.maker, model: like.model },
      locationId: b % 2 === 0 ? null : at(places, b).id,
      serial: `S-${mark}`,
      tag: `T-${mark}`,
      owner: b % 3 === 0 ? 'own fleet' : 'customer',
      commissioned: days % 4 === 0 ? null : pastDay(days),
    };
    return (await call('POST', '/api/assets', body)).status;
  },
  async change({ a, b, days }) {
    const one = at((await machines()).assets, a);
    const { classId, maker, model, serial, tag, parentId, owner, version } = one;
    const { warrantyLabour, warrantyParts, warrantyTravel, warrantyVisits } = one;
    const body = {
      ...{ classId, maker, model, serial, parentId, owner, version },
      ...{ warrantyLabour, warrantyParts, warrantyTravel, warrantyVisits },
      tag: b % 2 === 0 ? `${tag.slice(0, 20)}.` : tag,
      state: at(ASSET_STATES, b),
      commissioned: pastDay(400 + days),
      warrantyFrom: null,
      warrantyUntil: days % 2 === 0 ? addDays(TODAY, days) : null,
      rentedSince: one.rentedSince,
    };
    return (await call('PUT', `/api/assets/${one.id}`, body)).status;
  },
  install: (n) => live('installed', n, true),
  move: (n) => live('moved', n, true),
  remove: (n) => live('removed', n, false),
  stop: (n) => live('out of service', n, false),
  start: (n) => live('back in service', n, false),
  async swap({ a, b, days }) {
    const { assets } = await machines();
    const old = at(assets, a);
    const body = { newAssetId: at(assets, b).id, oldGoes: b % 2 === 0 ? 'to store' : 'scrapped', on: pastDay(days) };
    return (await call('POST', `/api/assets/${old.id}/swap`, { ...body, version: old.version, text: '' })).status;
  },
  async many({ a, b, days }) {
    const { assets, places } = await machines();
    const change = at(
      [
        { kind: 'place', locationId: at(places, b).id },
        { kind: 'owner', owner: 'own fleet' },
        { kind: 'owner', owner: 'customer' },
      ],
      days,
    );
    return (await call('POST', '/api/assets/bulk', { ids: [at(assets, a).id, at(assets, b).id], change })).status;
  },
  async merge({ a, b }) {
    const { assets } = await machines();
    return (await call('POST', '/api/assets/merge', { keptId: at(assets, a).id, goneId: at(assets, b).id })).status;
  },
  async mergePlaces({ a, b }) {
    const { places } = await machines();
    const [one, other] = [at(places, a), at(places, b)];
    return (await call('POST', `/api/locations/${one.id}/merge`, { into: other.id, version: one.version })).status;
  },
};

const whole = fc.integer({ min: 0, max: 40 });
const step = <K extends string>(kinds: readonly K[]) =>
  fc.record({ kind: fc.constantFrom(...kinds), a: whole, b: whole, days: fc.integer({ min: 0, max: 60 }) });

describe('assets', () => {
  it('follow from their facts, whatever happened to them', { timeout: 240_000 }, async () => {
    const done = new Map<string, number>();
    await fc.assert(
      fc.asyncProperty(fc.array(step(Object.keys(STEPS)), { minLength: 6, maxLength: 12 }), async (steps) => {
        for (const n of steps) {
          const status = await (STEPS[n.kind] as AssetStep)(n);
          expect(status, n.kind).toBeLessThan(500);
          if (status === 200) done.set(n.kind, (done.get(n.kind) ?? 0) + 1);
        }
        expect(await differing(24 * 40)).toEqual([]);
      }),
      { numRuns: 25, seed: 5 },
    );
    // A step that never succeeded would have proved nothing.
    expect(Object.keys(STEPS).filter((kind) => !done.has(kind))).toEqual([]);
  });

  it('changed by a file, and put back by undoing it', async () => {
    const { assets, places } = await machines();
    const [one] = assets.filter((a) => a.state === 'in service' && a.locationId !== null);
    const other = places.find((p) => p.id !== one?.locationId && p.retiredOn === null && p.parentId !== null);
    if (!one || !other) throw new Error('no machine is left to move');
    const csv = `customer,class,maker,serial,tag,model,location_path\nNorvela Diagnostics,Ultra-low freezer,${one.maker},${one.serial},${one.tag},ULF-999,${other.fullName}`;
    const begun = await call<{ id: number }>('POST', '/api/imports?kind=assets&name=a.csv', Buffer.from(csv));
    expect(begun.status).toBe(200);
    expect((await call('POST', `/api/imports/${begun.body.id}/run`)).status).toBe(200);
    const state = async (): Promise<string | undefined> =>
      (await call<{ items: { id: number; state: string }[] }>('GET', '/api/imports')).body.items.find(
        (i) => i.id === begun.body.id,
      )?.state;
    await expect.poll(state, { timeout: 20_000 }).toBe('done');
    const now = async () => (await machines()).assets.find((a) => a.id === one.id);
    expect(await now()).toMatchObject({ model: 'ULF-999' });
    expect((await now())?.locationId).toBe(other.id);
    expect(await differing()).toEqual([]);
    expect((await call('POST', `/api/imports/${begun.body.id}/undo`)).body).toMatchObject({ done: true });
    expect(await now()).toMatchObject({ model: one.model, locationId: one.locationId });
    expect(await differing()).toEqual([]);
  });
});

describe('what was tampered with', () => {
  it('is named by the check, which writes nothing, and put right', async () => {
    const { pool, db } = house.database;
    const [one] = (await machines()).assets.filter((a) => a.state === 'in service');
    await pool.query("UPDATE asset SET state = 'in store', version = version + 1 WHERE id = ?", [one?.id]);
    await pool.query('DELETE FROM asset_past_stay LIMIT 1');
    const raised = await call('POST', '/api/orders', {
      ...{ requestKey: randomUUID(), assetIds: [one?.id], priority: 1, cause: 'wear', title: 'Warm' },
      receivedAt: new Date(house.now).toISOString(),
    });
    expect(raised.status).toBe(200);
    const [order] = await db.select().from(workOrder).limit(1);
    await pool.query("UPDATE work_order SET stage = 'planned', technician = 'nobody' WHERE id = ?", [order?.id]);
    await pool.query('DELETE FROM clock WHERE order_id = ? LIMIT 1', [order?.id]);
    const wrong = await differing();
    expect(wrong.filter((line) => line.startsWith(`${one?.tag}: state is "in store"`))).toHaveLength(1);
    expect(wrong.filter((line) => line.includes('stood at'))).toHaveLength(1);
    expect(wrong.filter((line) => line.startsWith(`order ${order?.id}: stage`))).toHaveLength(1);
    expect(wrong.filter((line) => line.startsWith(`clocks of order ${order?.id}:`))).toHaveLength(1);
    expect(await differing()).toEqual(wrong);
    expect((await check(0, true)).flatMap((r) => r.differing)).toEqual(wrong);
    expect(await differing()).toEqual([]);
    expect(await db.select().from(workOrder).limit(1)).toMatchObject([{ stage: order?.stage }]);
  });
  it('a history that does not begin with a registration is named, not guessed at', async () => {
    const { pool } = house.database;
    await pool.query('UPDATE asset_event SET fact = NULL WHERE asset_id = ?', [world.assetIds[5]]);
    expect((await check(0, true)).flatMap((r) => r.differing)).toEqual([
      expect.stringContaining('its facts do not begin with its registration'),
    ]);
  });
});

it('assets of the version before facts are taken over as they stand', async () => {
  const { database } = await freshDatabase();
  await migrateDatabase(database, await migrationsUpTo(16));
  const old = async (sql: string) => void (await database.pool.query(sql));
  await old("INSERT INTO customer (name) VALUES ('Old customer')");
  await old("INSERT INTO asset_class (name) VALUES ('Incubator')");
  await old("INSERT INTO location (name, full_name, path) VALUES ('Hall “A”', 'Hall “A”', '/1/')");
  await old(
    `INSERT INTO asset (customer_id, class_id, location_id, maker, model, serial, tag, serial_plain, owner, state, commissioned, warranty_until, warranty_labour)
     VALUES (1, 1, 1, 'Vessmark', 'INC-240', 'S1', 'T1', 's1', 'customer', 'in service', '2024-02-29', '2027-01-01', 50),
            (1, 1, NULL, 'Vessmark', 'INC-240', 'S "2"', 'T2', 's2', 'own fleet', 'in store', NULL, NULL, 100)`,
  );
  await old("INSERT INTO asset_past_stay VALUES (1, '2025-03-01', NULL, 1), (1, '2025-01-01', 1, 1)");
  await migrateDatabase(database);
  expect(await database.db.$count(assetEvent)).toBe(2);
  const found = await rebuild(database, DERIVED, asInstant('2026-11-24T09:20:00Z'), false);
  expect(found).toEqual([
    { what: 'assets', seen: 2, differing: [] },
    { what: 'orders', seen: 0, differing: [] },
    { what: 'courses of finished orders', seen: 0, differing: [] },
    { what: 'stock of parts in stores', seen: 0, differing: [] },
    { what: 'needs of parts', seen: 0, differing: [] },
    { what: 'standing months', seen: 0, differing: [] },
  ]);
  await database.close();
});
