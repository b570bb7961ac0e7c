// A process of its own that commits one upkeep run; the test starts two of them at once.
import { asId, type PersonId } from '#core/ids.ts';
import { asInstant, asLocalDate, asZone } from '#core/time/index.ts';
import { openDatabase } from '../src/platform/database.ts';
import { commitRun } from '../src/upkeep/index.ts';

const [url = '', to = '', now = ''] = process.argv.slice(2);
const database = openDatabase(url, 2);
await database.pool.query('SELECT 1');
process.stdout.write('ready\n');
await new Promise((go) => process.stdin.once('data', go));
const who = {
  id: asId<PersonId>(1),
  name: 'runner',
  email: '',
  role: 'coordinator',
  zone: asZone('Europe/Lisbon'),
} as const;
const result = await commitRun(database, asLocalDate(to), null, who, asInstant(now), asLocalDate(now.slice(0, 10)));
process.stdout.write(`${JSON.stringify(result)}\n`);
await database.close();
process.exit(0);
