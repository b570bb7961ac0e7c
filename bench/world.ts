// The demo world at a scale for load measurements, in a database of its own that goes when the measurement ends.
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { loadDemo } from '#demo/load.ts';
import { migrateDatabase, openDatabase, type Database } from '#server/platform/database.ts';
import { freePort, startDatabase } from '../commands/mariadb.ts';
import { sized } from './size.ts';
import { NOW } from './world-now.ts';
import { secondsOf } from './stopwatch.ts';

export { NOW };

export type World = {
  readonly database: Database;
  readonly url: string;
  readonly figures: Readonly<Record<string, number>>;
  readonly loadSeconds: number;
  /** Waits until what was loaded is written out. */
  readonly writeOut: () => Promise<void>;
};

/** STAVOK_BENCH_SCALE makes it smaller for a quick look; the numbers asked for hold at 400. */
export async function inWorld<T>(work: (world: World) => Promise<T>, usual = sized(400, 1)): Promise<T> {
  const scale = Number(process.env.STAVOK_BENCH_SCALE ?? usual);
  const folder = await mkdtemp(join(tmpdir(), 'stv-'));
  const private_ = await startDatabase(folder, await freePort(), 'lasting');
  const database = openDatabase(private_.url, 12);
  try {
    await migrateDatabase(database);
    let figures: World['figures'] = {};
    const loadSeconds = await secondsOf(async () => {
      figures = (await loadDemo(database, NOW, scale)).figures;
    });
    return await work({ database, url: private_.url, figures, loadSeconds, writeOut: () => private_.writeOut() });
  } finally {
    await database.close();
    await private_.stop();
    await rm(folder, { recursive: true, force: true });
  }
}
