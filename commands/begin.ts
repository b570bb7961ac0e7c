// Beginning other programs so that none outlives this one.
import { spawn, type ChildProcess, type SpawnOptions } from 'node:child_process';
import { existsSync } from 'node:fs';

const SETPRIV = '/usr/bin/setpriv';

/** Starts a program that the system ends when this process is gone, even by kill -9 (a signal at the parent's death, where util-linux offers it). */
export function begin(argv: readonly [string, ...string[]] | readonly string[], options: SpawnOptions): ChildProcess {
  const [command = '', ...args] = argv;
  return existsSync(SETPRIV)
    ? spawn(SETPRIV, ['--pdeathsig', 'TERM', '--', command, ...args], options)
    : spawn(command, args, options);
}
