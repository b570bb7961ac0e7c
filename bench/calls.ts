// Calls to the server in measurements: signed in as a coordinator of the world, timed, and spread over its machines.
import { Buffer } from 'node:buffer';
import type { FastifyInstance } from 'fastify';
import type { Config } from '#server/platform/config.ts';
import { WEB_ROOT } from '../commands/house.ts';
import { rounded } from './stopwatch.ts';
import { NOW } from './world.ts';

const COORDINATOR = 'ines.teixeira@marisma.example';

export const serverConfig = (databaseUrl: string): Config => ({
  port: 0,
  databaseUrl,
  brokerUrl: null,
  brokerTls: null,
  mailUrl: null,
  mailFrom: 'Stavok <stavok@example.org>',
  mailboxPort: null,
  messageUrl: null,
  pushKeys: null,
  terminalUrl: null,
  sessionSecret: 'a secret of the measurement, long enough to be taken',
  fixedNow: NOW,
  demo: true,
  production: true,
  logLevel: 'silent',
  webRoot: WEB_ROOT,
  publicAddress: 'http://127.0.0.1:4780',
  trustedProxies: [],
});

export function percentile(values: readonly number[], share: number): number {
  const sorted = [...values].sort((a, b) => a - b);
  return sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * share))] as number;
}
export const spread = (ms: readonly number[]) => ({
  medianMs: rounded(percentile(ms, 0.5)),
  p95Ms: rounded(percentile(ms, 0.95)),
  worstMs: rounded(Math.max(...ms)),
});

export type Caller = <T>(method: 'GET' | 'POST', url: string, body?: Buffer | object) => Promise<T>;

export async function signIn(app: FastifyInstance): Promise<Caller> {
  const signed = await app.inject({ method: 'POST', url: '/api/session/demo', payload: { email: COORDINATOR } });
  const cookie = String(signed.headers['set-cookie']).split(';')[0] as string;
  const { csrf } = signed.json<{ csrf: string }>();
  return async (method, url, body) => {
    const answer = await app.inject({
      method,
      url,
      ...(body !== undefined && { payload: body }),
      headers: {
        cookie,
        'x-csrf-token': csrf,
        ...(Buffer.isBuffer(body) && { 'content-type': 'application/octet-stream' }),
      },
    });
    if (answer.statusCode !== 200)
      throw new Error(`${method} ${url}: ${answer.statusCode} ${answer.body.slice(0, 300)}`);
    return answer.json();
  };
}

export async function timed(times: number, work: (i: number) => Promise<unknown>): Promise<number[]> {
  const taken: number[] = [];
  for (let i = 0; i < times + 20; i += 1) {
    const begun = performance.now();
    await work(i);
    // The first few fill caches and are not counted.
    if (i >= 20) taken.push(performance.now() - begun);
  }
  return taken;
}

/** Ids spread over the register, never the same one soon again. */
export const spreadId = (i: number, assets: number): number => 1 + ((i * 193) % assets);
