// Processes of this machine as /proc tells of them: who runs, since when, and who listens on a port.
import { readdir, readFile, readlink } from 'node:fs/promises';
import { createServer } from 'node:net';

/** When a process began, in ticks since the machine did: with its number it names one process and no later one. */
export async function beginOf(pid: number): Promise<string | null> {
  const stat = await readFile(`/proc/${pid}/stat`, 'utf8').catch(() => null);
  // The name in brackets may hold spaces; what follows it are plain fields.
  const fields = stat?.slice(stat.lastIndexOf(')') + 2).split(' ');
  return fields && fields[0] !== 'Z' ? (fields[19] ?? null) : null;
}

export async function commandOf(pid: number): Promise<string[]> {
  const text = await readFile(`/proc/${pid}/cmdline`, 'utf8').catch(() => '');
  return text.split('\0').filter((part) => part !== '');
}

async function socketOf(port: number): Promise<string | null> {
  const wanted = port.toString(16).toUpperCase().padStart(4, '0');
  for (const table of ['/proc/net/tcp', '/proc/net/tcp6']) {
    const text = await readFile(table, 'utf8').catch(() => '');
    for (const line of text.split('\n').slice(1)) {
      const fields = line.trim().split(/\s+/);
      if (fields[1]?.endsWith(`:${wanted}`) && fields[3] === '0A') return fields[9] ?? null;
    }
  }
  return null;
}

/** The process that listens on a port, as far as this user may see it. */
async function listenerOn(port: number): Promise<string | null> {
  const socket = await socketOf(port);
  if (socket === null) return null;
  for (const pid of (await readdir('/proc')).filter((name) => /^\d+$/.test(name))) {
    const descriptors = await readdir(`/proc/${pid}/fd`).catch(() => []);
    for (const d of descriptors)
      if ((await readlink(`/proc/${pid}/fd/${d}`).catch(() => '')) === `socket:[${socket}]`)
        return `process ${pid} (${(await commandOf(Number(pid))).join(' ').slice(0, 120)})`;
  }
  return 'a process of another user';
}

/** Refuses a port that somebody has, and says who. */
export async function mustBeFree(port: number): Promise<void> {
  const error = await new Promise<NodeJS.ErrnoException | null>((done) => {
    const probe = createServer();
    probe.once('error', (e) => done(e));
    probe.listen(port, '127.0.0.1', () => probe.close(() => done(null)));
  });
  if (!error) return;
  if (error.code !== 'EADDRINUSE') throw error;
  const who = (await listenerOn(port)) ?? 'another process';
  throw new Error(
    `Port ${port} is taken by ${who}. Stop it, or choose another port: STAVOK_PORT=${port + 10} ./stavok …`,
  );
}
