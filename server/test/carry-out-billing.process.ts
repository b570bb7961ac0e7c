// A process of its own that carries a billing run out, begun before, until somebody kills it.
import type { BillingRunId } from '#core/ids.ts';
import { asInstant } from '#core/time/index.ts';
import { openDatabase } from '../src/platform/database.ts';
import { claimJob } from '../src/platform/jobs.ts';
import { carryOutBilling } from '../src/settle/runs.ts';

const [url = '', id = '', kind = ''] = process.argv.slice(2);
const database = openDatabase(url, 3);
await database.pool.query('SELECT 1');
process.stdout.write('ready\n');
await new Promise((go) => process.stdin.once('data', go));
const claim = await claimJob(database, [kind]);
if (claim) {
  const working = { ...claim, signal: new AbortController().signal, progress: () => Promise.resolve() };
  await carryOutBilling(
    database,
    { id: Number(id) as BillingRunId, orderId: null },
    working,
    asInstant('2026-11-24T09:20:00Z'),
  );
}
await database.close();
process.exit(0);
