// The link to a broker: nothing is acknowledged before it is taken, what was not comes again, TLS with a certificate of our own, and a
// broker that speaks nonsense.
import { createServer as createPlain, type AddressInfo, type Server } from 'node:net';
import { createServer as createSecure } from 'node:tls';
import { Aedes } from 'aedes';
import { connectAsync } from 'mqtt';
import { generate } from 'selfsigned';
import { afterEach, describe, expect, it } from 'vitest';
import { openLink, type Link, type LinkTo } from '../src/signals/broker-link.ts';

const ends: (() => Promise<unknown> | void)[] = [];
afterEach(async () => {
  for (const end of ends.reverse().splice(0)) await end();
});
const pause = (ms: number): Promise<void> => new Promise((done) => setTimeout(done, ms));
async function eventually(check: () => boolean): Promise<boolean> {
  for (let i = 0; i < 200 && !check(); i += 1) await pause(50);
  return check();
}
async function listening(server: Server): Promise<number> {
  await new Promise<void>((ready) => server.listen(0, '127.0.0.1', ready));
  return (server.address() as AddressInfo).port;
}
async function startBroker(): Promise<{ broker: Aedes; url: string }> {
  const broker = await Aedes.createBroker();
  const server = createPlain(broker.handle);
  const port = await listening(server);
  ends.push(() => new Promise<void>((done) => broker.close(() => server.close(() => done()))));
  return { broker, url: `mqtt://127.0.0.1:${port}` };
}
function linked(to: Pick<LinkTo, 'url'> & Partial<LinkTo>): { link: Link; taken: string[]; failed: string[] } {
  const [taken, failed]: [string[], string[]] = [[], []];
  const link = openLink({
    ...{ clientId: 'stavok-test', topic: 'readings/#', failed: (error) => void failed.push(error.message) },
    take: async (_topic, payload) => void taken.push(payload.toString()),
    ...to,
  });
  ends.push(() => link.stop());
  return { link, taken, failed };
}

describe('a message', () => {
  it('is acknowledged once it is taken, many at a time', async () => {
    const { broker, url } = await startBroker();
    const acknowledged: number[] = [];
    broker.on('ack', () => void acknowledged.push(1));
    let open = (): void => undefined;
    const gate = new Promise<void>((done) => (open = done));
    let begun = 0;
    const { link } = linked({
      url,
      take: async () => {
        begun += 1;
        await gate;
      },
    });
    expect(await eventually(() => link.isUp())).toBe(true);
    const client = await connectAsync(url);
    ends.push(() => client.endAsync(true));
    for (let i = 0; i < 20; i += 1) await client.publishAsync('readings/x', String(i), { qos: 1 });
    expect(await eventually(() => begun === 20)).toBe(true);
    expect(acknowledged).toHaveLength(0);
    open();
    expect(await eventually(() => acknowledged.length === 20)).toBe(true);
  });

  it('that was not taken comes again, and so does what came while nobody listened', { timeout: 30_000 }, async () => {
    const { url } = await startBroker();
    let refuses = 1;
    const taken: string[] = [];
    const take = async (_topic: string, payload: Buffer): Promise<void> => {
      if (refuses-- > 0) throw new Error('the database is away');
      taken.push(payload.toString());
    };
    const first = linked({ url, take });
    expect(await eventually(() => first.link.isUp())).toBe(true);
    const client = await connectAsync(url);
    ends.push(() => client.endAsync(true));
    await client.publishAsync('readings/x', 'refused once', { qos: 1 });
    expect(await eventually(() => taken.includes('refused once'))).toBe(true);
    await first.link.stop();
    await client.publishAsync('readings/x', 'while away', { qos: 1 });
    expect(taken).not.toContain('while away');
    linked({ url, take });
    expect(await eventually(() => taken.includes('while away'))).toBe(true);
    expect(taken.filter((t) => t === 'refused once')).toHaveLength(1);
  });
});

describe('a secure broker', () => {
  it('lets in whom it knows by a certificate, and is known by its own', { timeout: 30_000 }, async () => {
    const own = await generate([{ name: 'commonName', value: 'broker.test' }], {
      keySize: 2048,
      extensions: [{ name: 'subjectAltName', altNames: [{ type: 7, ip: '127.0.0.1' }] }],
    });
    const client = await generate([{ name: 'commonName', value: 'stavok.test' }], { keySize: 2048 });
    const broker = await Aedes.createBroker();
    const server = createSecure(
      { key: own.private, cert: own.cert, ca: client.cert, requestCert: true, rejectUnauthorized: true },
      broker.handle,
    );
    const url = `mqtts://127.0.0.1:${await listening(server)}`;
    ends.push(() => new Promise<void>((done) => broker.close(() => server.close(() => done()))));
    const [ca, cert, key] = [own.cert, client.cert, client.private].map((pem) => Buffer.from(pem)) as [
      Buffer,
      Buffer,
      Buffer,
    ];
    const known = linked({ url, tls: { ca, cert, key } });
    expect([await eventually(() => known.link.isUp()), known.failed]).toEqual([true, []]);
    // Without a certificate of ours it does not let us in; without knowing its own we do not go in.
    const stranger = linked({ url, clientId: 'stranger', tls: { ca } });
    const wary = linked({ url, clientId: 'wary', tls: { cert, key } });
    expect(await eventually(() => stranger.failed.length > 0 && wary.failed.length > 0)).toBe(true);
    expect([stranger.link.isUp(), wary.link.isUp()]).toEqual([false, false]);
    expect(wary.failed[0]).toMatch(/self-signed|unable to verify/i);
  });
});

describe('a broker that speaks nonsense', () => {
  it('is left and tried again; nothing of it is taken', { timeout: 30_000 }, async () => {
    let connections = 0;
    const server = createPlain((socket) => {
      connections += 1;
      socket.on('error', () => undefined).resume();
      socket.write(Buffer.from([0xf0, 0xff, 0xff, 0xff, 0xff, 0xff]));
    });
    const port = await listening(server);
    ends.push(() => new Promise<void>((done) => server.close(() => done())));
    const { link, taken, failed } = linked({ url: `mqtt://127.0.0.1:${port}` });
    expect(await eventually(() => connections >= 2)).toBe(true);
    expect([link.isUp(), taken, failed.length > 0]).toEqual([false, [], true]);
    await link.stop();
  });
});
