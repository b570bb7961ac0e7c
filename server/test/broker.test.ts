// Readings over MQTT: the stand-in broker, this server’s subscription, and packs that are refused without harm.
import { connectAsync } from 'mqtt';
import { count } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { startBroker } from '#standins/broker.ts';
import { startDevices } from '#standins/devices.ts';
import { freePort } from '../../commands/mariadb.ts';
import type { Going } from '../src/room.ts';
import { linkBroker } from '../src/signals/broker.ts';
import { device, reading } from '../src/tables.ts';
import { realNow } from '../src/platform/http.ts';
import { buildWorld, openHouse, type TestHouse } from './house.ts';

const KEY = 'urn:dev:os:stavok-q100';
let house: TestHouse;
let broker: Awaited<ReturnType<typeof startBroker>>;
let link: Going;
let url: string;
const logged: string[] = [];

beforeAll(async () => {
  house = await openHouse();
  const world = await buildWorld(await house.as('coordinator'));
  await (
    await house.as('coordinator')
  )('POST', '/api/devices', { assetId: world.assetIds[0], key: KEY });
  const port = await freePort();
  broker = await startBroker(port, 'a secret');
  url = `mqtt://stavok:${encodeURIComponent('a secret')}@127.0.0.1:${port}`;
  const log = {
    warn: (_: unknown, text: string) => logged.push(text),
    error: (_: unknown, text: string) => logged.push(text),
  };
  link = linkBroker(
    {
      config: { brokerUrl: url, brokerTls: null, databaseUrl: house.url },
      database: house.database,
      readNow: realNow(null),
    } as never,
    log as never,
  ) as Going;
  await eventually(async () => broker.listeners() > 0);
});
afterAll(async () => {
  await link.stop();
  await broker.stop();
  await house.close();
});

const readings = async (): Promise<number> => (await house.database.db.select({ n: count() }).from(reading))[0]?.n ?? 0;
async function eventually(check: () => Promise<boolean>): Promise<boolean> {
  for (let i = 0; i < 100; i += 1) {
    if (await check()) return true;
    await new Promise((r) => setTimeout(r, 50));
  }
  return false;
}

describe('the broker', () => {
  it('takes nobody without the password', async () => {
    await expect(
      connectAsync(url.replace('a%20secret', 'wrong'), { reconnectPeriod: 0, connectTimeout: 2000 }),
    ).rejects.toThrow();
  });

  it('hands packs to the server, which takes good ones and names bad ones', async () => {
    const client = await connectAsync(url);
    await client.publishAsync('readings/q100', 'no JSON at all', { qos: 1 });
    await client.publishAsync('readings/q100', JSON.stringify([{ n: 'urn:dev:os:stranger:chamber', v: 1 }]), {
      qos: 1,
    });
    await client.publishAsync('readings/q100', 'x'.repeat(300_000), { qos: 1 });
    await client.publishAsync(
      'readings/q100',
      JSON.stringify([
        { bn: `${KEY}:`, n: 'chamber', u: 'Cel', v: -79.5 },
        { n: 'door', vb: true },
        { n: 'state', vs: 'cooling' },
      ]),
      { qos: 1 },
    );
    expect(await eventually(async () => (await readings()) === 3)).toBe(true);
    expect(logged).toEqual(expect.arrayContaining(['pack refused', 'pack refused']));
    expect(logged).not.toContain('pack failed');
    await client.endAsync();
    const call = await house.as('coordinator');
    const { items: devices } = (
      await call<{ items: { key: string; lastAt: number; channels: { channel: string; value: string }[] }[] }>(
        'GET',
        '/api/devices',
      )
    ).body;
    expect(devices[0]?.channels.map((c) => [c.channel, c.value])).toEqual([
      ['chamber', '-79.5'],
      ['door', '1'],
      ['state', 'cooling'],
    ]);
    const points = await call<{ unit: string; points: { value: number }[] }>(
      'GET',
      `/api/assets/1/readings?channel=chamber`,
    );
    expect(points.body.unit).toBe('Cel');
  });

  it('carries what the simulated devices send', async () => {
    const before = await readings();
    const simulated = startDevices(
      url,
      Array.from({ length: 40 }, () => ({
        key: KEY,
        kind: 'freezer' as const,
        setPoint: -80,
        scenario: 'healthy' as const,
      })),
    );
    expect(await eventually(async () => (await readings()) > before)).toBe(true);
    await simulated.stop();
    expect(await house.database.db.$count(device)).toBe(1);
  });
});
