// A process of its own that commits one upkeep run; the test starts two of them at once.
import { asInstant, asLocalDate } from '#core/time/index.ts';
import { openDatabase } from '../src/platform/database.ts';
import { raiseAll } from './raise-all.ts';

const [url = '', to = '', now = ''] = process.argv.slice(2);
const database = openDatabase(url, 2);
await database.pool.query('SELECT 1');
process.stdout.write('ready\n');
await new Promise((go) => process.stdin.once('data', go));
const result = await raiseAll(database, asLocalDate(to), asInstant(now));
process.stdout.write(`${JSON.stringify(result)}\n`);
await database.close();
process.exit(0);
