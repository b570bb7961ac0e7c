// ./stavok test: every check in turn; each leaves no process behind.
import type { ChildProcess } from 'node:child_process';
import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import { begin } from './begin.ts';
import { BENCHES } from './bench.ts';
import { buildWeb, ROOT } from './house.ts';
import { throwAwayFolder } from './mariadb.ts';

type Step = {
  readonly name: string;
  readonly says: string;
  /** Only reads the sources, on one core: such steps run beside each other. */
  readonly reads?: true;
  run(): Promise<boolean>;
};

function program(
  command: string,
  args: string[],
  env: Record<string, string> = {},
  shown: 'all' | 'errors only' = 'all',
): Promise<boolean> {
  return new Promise((done) => {
    const child = begin([command, ...args], {
      cwd: ROOT,
      stdio: ['ignore', shown === 'all' ? 'inherit' : 'ignore', 'inherit'],
      env: { ...process.env, ...env },
    });
    running.add(child);
    const ended = (passed: boolean): void => {
      running.delete(child);
      done(passed);
    };
    child.once('error', () => ended(false));
    child.once('exit', (code) => ended(code === 0));
  });
}

/** Ended from outside, the check at work is ended too, and with it what it started. */
const running = new Set<ChildProcess>();
function endedBySignals(): void {
  for (const signal of ['SIGINT', 'SIGTERM'] as const)
    process.once(signal, () => {
      for (const child of running) child.kill('SIGTERM');
      setTimeout(() => process.exit(130), 5000);
      void Promise.all([...running].map((c) => new Promise((gone) => c.once('exit', gone)))).then(() =>
        process.exit(130),
      );
    });
}

const node = (file: string, ...args: string[]): [string, string[]] => [
  process.execPath,
  [join('node_modules', file), ...args],
];
const tool = ([command, args]: [string, string[]], env?: Record<string, string>): Promise<boolean> =>
  program(command, args, env);

/** Two time zones of the process: nothing may depend on the machine's own. */
const FAR_FROM_UTC = 'Pacific/Auckland';
const ZONES = ['UTC', FAR_FROM_UTC];

const STEPS: readonly Step[] = [
  {
    name: 'types',
    reads: true,
    says: 'types',
    run: async () =>
      (await tool(node('typescript-7/bin/tsc', '-p', 'core/tsconfig.json'))) &&
      // As many checkers as cores: each works out the same types anew.
      tool(node('typescript-7/bin/tsc', '-p', 'tsconfig.json', '--checkers', '2')),
  },
  {
    name: 'lint',
    reads: true,
    says: 'lint',
    run: async () =>
      (await tool(node('oxlint/bin/oxlint', '--type-aware'))) &&
      tool(node('prettier/bin/prettier.cjs', '--check', '.', '--log-level', 'warn')),
  },
  {
    name: 'imports',
    reads: true,
    says: 'import rules',
    run: () =>
      tool(
        node(
          'dependency-cruiser/bin/dependency-cruise.mjs',
          'core',
          'api',
          'server',
          'web',
          'standins',
          'demo',
          'commands',
          'bench',
          'e2e',
        ),
      ),
  },
  {
    name: 'units',
    says: 'units, under two time zones of the process',
    run: async () =>
      (await Promise.all(ZONES.map((TZ) => tool(node('vitest/vitest.mjs', 'run', '--project', 'core'), { TZ })))).every(
        Boolean,
      ),
  },
  {
    name: 'screens',
    says: 'parts and forms of screens in jsdom, far from UTC',
    run: () =>
      tool(node('vitest/vitest.mjs', 'run', '--project', 'screens', '--project', 'parts'), { TZ: FAR_FROM_UTC }),
  },
  {
    name: 'server',
    says: 'server on MariaDB',
    run: () => tool(node('vitest/vitest.mjs', 'run', '--project', 'server'), { TZ: 'UTC' }),
  },
  {
    name: 'benches',
    says: 'every measurement at a tiny size, so that none rots',
    async run() {
      await buildWeb();
      const results: boolean[] = [];
      const names = Object.keys(BENCHES).values();
      const measure = async (): Promise<void> => {
        for (const name of names) {
          const passed = await program(
            process.execPath,
            ['--import', 'tsx', 'commands/main.ts', 'bench', name],
            { STAVOK_BENCH_TINY: '1' },
            'errors only',
          );
          process.stdout.write(`${passed ? '✓' : '✕'} ${name}\n`);
          results.push(passed);
        }
      };
      // Whether they run is asked here, not how fast: one for each of two cores.
      await Promise.all([measure(), measure()]);
      return results.every(Boolean);
    },
  },
  {
    name: 'journeys',
    says: 'journeys in Chromium',
    async run() {
      await buildWeb();
      const folder = await throwAwayFolder();
      try {
        return await tool(node('@playwright/test/cli.js', 'test', '--config', 'e2e/playwright.config.ts'), {
          STAVOK_JOURNEY_FOLDER: folder,
        });
      } finally {
        await rm(folder, { recursive: true, force: true });
      }
    },
  },
];

export async function run(names: readonly string[]): Promise<void> {
  endedBySignals();
  // What is no check is a part of test files' names.
  const files = names.filter((n) => !STEPS.some((s) => s.name === n));
  if (files.length > 0) {
    const passed = await tool(node('vitest/vitest.mjs', 'run', ...files), { TZ: 'UTC' });
    if (!passed)
      process.stderr.write(`Checks are: ${STEPS.map((s) => s.name).join(', ')}. Everything else names test files.\n`);
    process.exitCode = passed ? 0 : 1;
    return;
  }
  const results: [string, boolean, number][] = [];
  const carryOut = async (steps: readonly Step[]): Promise<void> => {
    if (steps.length === 0) return;
    process.stdout.write(`\n── ${steps.map((s) => s.says).join(', ')} ──\n`);
    const started = Date.now();
    const timed = steps.map(async (s): Promise<[string, boolean, number]> => [
      s.says,
      await s.run(),
      (Date.now() - started) / 1000,
    ]);
    results.push(...(await Promise.all(timed)));
  };
  const wanted = STEPS.filter((s) => names.length === 0 || names.includes(s.name));
  await carryOut(wanted.filter((s) => s.reads));
  for (const step of wanted.filter((s) => !s.reads)) await carryOut([step]);
  process.stdout.write(
    `\n${results.map(([says, passed, seconds]) => `${passed ? '✓' : '✕'} ${says} (${seconds.toFixed(0)} s)`).join('\n')}\n`,
  );
  const failed = results.filter(([, passed]) => !passed).length;
  process.stdout.write(`${results.length - failed} passed, ${failed} failed\n`);
  if (failed > 0) process.exitCode = 1;
}
