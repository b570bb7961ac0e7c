// What the commands stand on: a data folder that one process holds, a port that is free, a database made whole and kept running.
import { spawn } from 'node:child_process';
import { mkdir, mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { endLeftDatabase, holdFolder } from '../../commands/folder.ts';
import { freePort, startDatabase } from '../../commands/mariadb.ts';
import { beginOf, mustBeFree } from '../../commands/processes.ts';
import { openDatabase } from '../src/platform/database.ts';

let folder: string;
beforeEach(async () => {
  folder = await mkdtemp(join(tmpdir(), 'stv-c-'));
});
afterEach(() => rm(folder, { recursive: true, force: true }));

const until = async (what: () => Promise<boolean>): Promise<void> => {
  for (let i = 0; i < 300 && !(await what()); i += 1) await new Promise((r) => setTimeout(r, 50));
  expect(await what()).toBe(true);
};

describe('a data folder', () => {
  it('held by a living process is refused with its number and address; what a dead one left is taken over', async () => {
    const other = spawn(process.execPath, ['-e', 'setInterval(() => {}, 1000)'], { stdio: 'ignore' });
    const pid = other.pid as number;
    const holder = { pid, begin: await beginOf(pid), port: 4321 };
    await writeFile(join(folder, 'in-use.json'), JSON.stringify(holder));
    await expect(holdFolder(folder, 4780)).rejects.toThrow(`process ${pid}, which serves http://127.0.0.1:4321`);
    const gone = new Promise((done) => other.once('exit', done));
    other.kill('SIGKILL');
    await gone;
    const held = await holdFolder(folder, 4780);
    expect(JSON.parse(await readFile(join(folder, 'in-use.json'), 'utf8'))).toMatchObject({
      pid: process.pid,
      port: 4780,
    });
    await held.release();
    expect(await readdir(folder)).toEqual([]);
  });

  it('whose holder’s number was given to another process since is free', async () => {
    await writeFile(join(folder, 'in-use.json'), JSON.stringify({ pid: process.ppid, begin: '1', port: 4321 }));
    await (await holdFolder(folder, 4780)).release();
  });
});

it('a taken port is refused with the process that has it', async () => {
  const server = createServer().listen(0, '127.0.0.1');
  await new Promise((done) => server.once('listening', done));
  const { port } = server.address() as { port: number };
  await expect(mustBeFree(port)).rejects.toThrow(new RegExp(`Port ${port} is taken by process ${process.pid} `));
  await new Promise((done) => server.close(done));
  await expect(mustBeFree(port)).resolves.toBeUndefined();
});

describe('a private database', () => {
  it('cut off while it was made is made anew; one that dies is started again with everything that was kept', async () => {
    await mkdir(join(folder, 'data.making', 'mysql'), { recursive: true });
    await mkdir(join(folder, 'data', 'half'), { recursive: true });
    const started = await startDatabase(folder, await freePort(), 'lasting');
    const database = openDatabase(started.url, 2);
    await database.pool.query('CREATE TABLE kept (id INT PRIMARY KEY)');
    await database.pool.query('INSERT INTO kept VALUES (7)');
    const pid = Number(await readFile(join(folder, 'run', 'm.pid'), 'utf8'));
    process.kill(pid, 'SIGKILL');
    await until(() =>
      database.pool.query('SELECT id FROM kept').then(
        ([rows]) => (rows as { id: number }[])[0]?.id === 7,
        () => false,
      ),
    );
    await database.close();
    await started.stop();
    expect(await beginOf(Number(await readFile(join(folder, 'run', 'm.pid'), 'utf8').catch(() => '0')))).toBeNull();
  });

  it('of a newer server is refused with both versions, and one left running is ended first', async () => {
    const left = await startDatabase(folder, await freePort(), 'lasting');
    const ended = left.stop();
    await endLeftDatabase(folder);
    await ended;
    await writeFile(join(folder, 'data', 'mysql_upgrade_info'), '99.1.0-MariaDB');
    await expect(startDatabase(folder, await freePort(), 'throw-away')).rejects.toThrow(
      /made by MariaDB 99\.1\.0-MariaDB, and \d+\.\d+ is installed here/,
    );
  });
});
