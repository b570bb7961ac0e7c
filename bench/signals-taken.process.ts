// A process built as the server is, that takes packs as fast as they go; it prints the seconds that took.
import { openDatabase } from '#server/platform/database.ts';
import { takePack } from '#server/signals/index.ts';
import { INSTANTS, packOf } from './signal-packs.ts';
import { NOW } from './world-now.ts';

/** So many packs wait to be answered at any time. */
const AT_ONCE = 400;

const [url = '', devicesText = '', turnsText = ''] = process.argv.slice(2);
const [devices, turns] = [Number(devicesText), Number(turnsText)];
const database = openDatabase(url, 12);

async function takeAll(packs: readonly object[][]): Promise<void> {
  let next = 0;
  await Promise.all(
    Array.from({ length: AT_ONCE }, async () => {
      for (let i = next++; i < packs.length; i = next++) await takePack(database, packs[i], NOW);
    }),
  );
}

// Where rules stand is known before, as it is in a house that runs.
await takeAll(Array.from({ length: devices }, (_, i) => packOf(i, NOW - 3_600_000)));
const packs = Array.from({ length: turns * devices }, (_, i) =>
  packOf(i % devices, NOW - (turns - Math.floor(i / devices)) * INSTANTS * 1000),
);
const begun = performance.now();
await takeAll(packs);
process.stdout.write(String((performance.now() - begun) / 1000));
await database.close();
process.exit(0);
