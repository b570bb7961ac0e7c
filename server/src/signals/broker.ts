// The broker: this server's subscription to the devices' readings.
import { connect, type MqttClient } from 'mqtt';
import type { FastifyBaseLogger } from 'fastify';
import type { House } from '../platform/http.ts';
import { Refused } from '../platform/refuse.ts';
import type { Going } from '../room.ts';
import { newClientId, takePack } from './take.ts';

export const READINGS_TOPIC = 'readings/#';
const MAX_MESSAGE_BYTES = 256 * 1024;
/** Messages waiting for the database; beyond this, packs are dropped and named in the log. */
const MAX_WAITING = 500;

export function linkBroker({ config, database, readNow }: House, log: FastifyBaseLogger): Going | null {
  const { brokerUrl: url } = config;
  if (url === null) return null;
  const client: MqttClient = connect(url, { clientId: newClientId(), reconnectPeriod: 2000, connectTimeout: 5000 });
  let line: Promise<void> = Promise.resolve();
  let waiting = 0;
  client.on('connect', () => client.subscribe(READINGS_TOPIC, { qos: 1 }));
  client.on('error', (error) => log.warn({ err: error }, 'broker'));
  client.on('message', (topic, payload) => {
    if (payload.length > MAX_MESSAGE_BYTES)
      return log.warn({ topic, bytes: payload.length }, 'pack refused: too large');
    if (waiting >= MAX_WAITING) return log.warn({ topic }, 'pack refused: too many are waiting');
    waiting += 1;
    line = line.then(() => take(topic, payload)).finally(() => (waiting -= 1));
  });
  async function take(topic: string, payload: Buffer): Promise<void> {
    try {
      await takePack(database, JSON.parse(payload.toString('utf8')), readNow());
    } catch (error) {
      if (error instanceof Refused || error instanceof SyntaxError)
        log.warn({ topic, why: error.message }, 'pack refused');
      else log.error({ topic, err: error }, 'pack failed');
    }
  }
  return {
    isUp: () => client.connected,
    async stop() {
      await client.endAsync(true);
      await line;
    },
  };
}
