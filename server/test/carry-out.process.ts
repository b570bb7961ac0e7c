// A process of its own that carries a run out, begun before, until somebody kills it.
import { asId, type PersonId, type RunId } from '#core/ids.ts';
import { asZone } from '#core/time/index.ts';
import { openDatabase } from '../src/platform/database.ts';
import { carryOutRun } from '../src/upkeep/runs.ts';

const [url = '', id = ''] = process.argv.slice(2);
const database = openDatabase(url, 3);
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
await carryOutRun(database, asId<RunId>(Number(id)), who);
await database.close();
process.exit(0);
