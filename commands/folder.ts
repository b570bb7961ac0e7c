// The data folder of an installation: one process at a time, its own user's, and nothing left behind by one that died.
import { mkdir, open, readFile, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { userInfo } from 'node:os';
import { beginOf, commandOf } from './processes.ts';

type Holder = { readonly pid: number; readonly begin: string | null; readonly port: number };

const isAlive = async ({ pid, begin }: Holder): Promise<boolean> => begin !== null && (await beginOf(pid)) === begin;

/** A folder of somebody else cannot be written to, and files of our own in it would lock them out. */
async function mustBeOurs(folder: string): Promise<void> {
  const { uid } = await stat(folder);
  const me = userInfo();
  if (me.uid !== 0 && uid !== me.uid)
    throw new Error(
      `The data folder ${folder} belongs to another user (number ${uid}). Start as that user, or choose another folder: STAVOK_DATA=… ./stavok …`,
    );
}

/** Takes the folder for this process. Refused: one that another living process has; what a dead one left is taken over. */
export async function holdFolder(folder: string, port: number): Promise<{ release(): Promise<void> }> {
  await mkdir(folder, { recursive: true });
  await mustBeOurs(folder);
  const file = join(folder, 'in-use.json');
  const own: Holder = { pid: process.pid, begin: await beginOf(process.pid), port };
  for (;;) {
    const handle = await open(file, 'wx').catch((error: NodeJS.ErrnoException) => {
      if (error.code === 'EEXIST') return null;
      throw error;
    });
    if (handle) {
      await handle.writeFile(JSON.stringify(own));
      await handle.close();
      return { release: () => rm(file, { force: true }) };
    }
    const held = await readFile(file, 'utf8').then(
      (text) => JSON.parse(text) as Holder,
      () => null,
    );
    if (held && held.pid !== process.pid && (await isAlive(held)))
      throw new Error(
        `The data folder ${folder} is in use by process ${held.pid}, which serves http://127.0.0.1:${held.port}. Stop that one first, or choose another folder and port: STAVOK_DATA=… STAVOK_PORT=… ./stavok …`,
      );
    await rm(file, { force: true });
  }
}

const pause = (ms: number): Promise<void> => new Promise((done) => setTimeout(done, ms));
const PATIENCE_MS = 30_000;

/** Ends the database server that a killed start left behind in this folder, and waits for it. */
export async function endLeftDatabase(root: string): Promise<void> {
  const pid = Number(await readFile(join(root, 'run', 'm.pid'), 'utf8').catch(() => ''));
  if (!Number.isInteger(pid) || pid < 2) return;
  const isTheirs = async (): Promise<boolean> => (await commandOf(pid)).includes(`--datadir=${join(root, 'data')}`);
  if (!(await isTheirs())) return;
  process.stderr.write('A database server of an earlier start still runs here; stopping it …\n');
  process.kill(pid, 'SIGTERM');
  for (let waited = 0; await isTheirs(); waited += 100) {
    if (waited > PATIENCE_MS)
      throw new Error(`The database server ${pid} of an earlier start does not stop; end it with: kill -9 ${pid}`);
    await pause(100);
  }
}
