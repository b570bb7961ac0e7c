// ./stavok rebuild: rows that follow from events, compared with what the events say, and put right.
import { instant } from '#core/time/index.ts';
import { migrateDatabase, openDatabase } from '#server/platform/database.ts';
import { rebuild } from '#server/platform/derived.ts';
import { DERIVED } from '#server/rooms.ts';
import { runningDatabaseUrl } from './house.ts';

export async function run(args: string[]): Promise<void> {
  const check = args.includes('--check');
  const database = openDatabase(await runningDatabaseUrl(args.includes('--demo') ? 'demo' : 'serve'), 2);
  try {
    await migrateDatabase(database);
    const results = await rebuild(database, DERIVED, instant(Date.now()), !check);
    for (const { what, seen, differing } of results) {
      const found =
        differing.length === 0 ? 'all as their events say' : `these ${check ? 'differ' : 'were put right'}:`;
      process.stdout.write(`${what}: ${seen} looked at, ${found}\n${differing.map((line) => `  ${line}\n`).join('')}`);
    }
    if (check && results.some((r) => r.differing.length > 0)) process.exitCode = 1;
  } finally {
    await database.close();
  }
}
