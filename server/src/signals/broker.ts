// The broker: the subscription to the devices' readings, kept by one of several servers.
import { readFileSync } from 'node:fs';
import type { FastifyBaseLogger } from 'fastify';
import type { House } from '../platform/http.ts';
import { keepGoing } from '../platform/keep-going.ts';
import { Refused } from '../platform/refuse.ts';
import type { Going } from '../room.ts';
import { openLink, type Link, type Tls } from './broker-link.ts';
import { formOf, readBytes } from './packs.ts';
import { BROKER_SHARD, claim, renew, RENEW_EVERY_MS } from './shards.ts';
import { takePack } from './take.ts';
import { watchOf } from './watch.ts';

export const READINGS_TOPIC = 'readings/#';

const tlsOf = (files: House['config']['brokerTls']): Tls => ({
  ...(files?.ca && { ca: readFileSync(files.ca) }),
  ...(files?.cert && { cert: readFileSync(files.cert) }),
  ...(files?.key && { key: readFileSync(files.key) }),
});

/** A name that stays the same from one start to the next, and is another for another house on the same broker. */
const clientIdOf = (databaseUrl: string): string => `stavok${new URL(databaseUrl).pathname.replaceAll('/', '-')}`;

export function linkBroker({ config, database, readNow }: House, log: FastifyBaseLogger): Going | null {
  const { brokerUrl: url } = config;
  if (url === null) return null;
  const { me } = watchOf(database);
  let link: Link | null = null;
  /** What is refused is not sent again: it is named in the log, with what would be right. */
  async function take(topic: string, payload: Buffer): Promise<void> {
    try {
      const { setAside } = await takePack(database, readBytes(payload, formOf(payload)), readNow());
      if (setAside.length > 0)
        log.warn({ topic, why: setAside.slice(0, 5).map((s) => s.message) }, 'readings set aside');
    } catch (error) {
      if (error instanceof Refused) return log.warn({ topic, why: error.message }, 'pack refused');
      log.error({ topic, err: error }, 'pack failed; it is sent again');
      throw error;
    }
  }
  const begin = (): Link =>
    openLink({
      ...{ url, clientId: clientIdOf(config.databaseUrl), topic: READINGS_TOPIC, take },
      tls: tlsOf(config.brokerTls),
      failed: (error) => log.warn({ err: error }, 'broker'),
    });
  const going = keepGoing(
    async () => {
      await claim(database.db, me, [BROKER_SHARD]);
      const isMine = (await renew(database.db, me)).includes(BROKER_SHARD);
      if (isMine) link ??= begin();
      else {
        await link?.stop();
        link = null;
      }
      return 0;
    },
    RENEW_EVERY_MS,
    (error) => log.warn({ err: error }, 'broker'),
  );
  return {
    // Whoever does not listen, for another server does, is as ready as that one.
    isUp: () => link?.isUp() ?? true,
    async stop() {
      await going.stop();
      await link?.stop();
    },
  };
}
