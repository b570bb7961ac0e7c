// A process of its own that listens to the broker and watches, until somebody kills it.
import type { FastifyBaseLogger } from 'fastify';
import { openDatabase } from '../src/platform/database.ts';
import { realNow, type House } from '../src/platform/http.ts';
import { linkBroker } from '../src/signals/broker.ts';
import { keepWatching } from '../src/signals/keep-watching.ts';

const [url = '', brokerUrl = ''] = process.argv.slice(2);
const house = {
  config: { brokerUrl, brokerTls: null, databaseUrl: url },
  database: openDatabase(url, 4),
  readNow: realNow(null),
} as unknown as House;
const say = (about: object, text: string): void => void process.stderr.write(`${text} ${JSON.stringify(about)}\n`);
const log = { warn: say, error: say } as unknown as FastifyBaseLogger;
linkBroker(house, log);
keepWatching(house, log);
process.stdout.write('ready\n');
