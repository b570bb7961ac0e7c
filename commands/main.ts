// Hands a command over to its file.
export {};

const HELP: Record<string, string> = {
  demo: `./stavok demo [--fresh] [--once]
  Serves the invented world of Marisma Lab Service on 127.0.0.1. --fresh throws the old demo data away first; --once stops
  as soon as it answers.
  STAVOK_PORT (4780), STAVOK_DATA (.data/demo), STAVOK_NOW (fixes the clock, e.g. 2026-03-17T09:20:00Z)`,
  test: `./stavok test [types|lint|imports|units|screens|server|benches|journeys … | WORD …]
  Runs all checks, or the named ones, or the test files whose name holds a word. Leaves no process behind.`,
  serve: `./stavok serve
  Serves a real, empty installation on 127.0.0.1 with a private MariaDB, or on the one named by STAVOK_DATABASE_URL.
  STAVOK_PORT (4780), STAVOK_DATA (.data/serve), STAVOK_DATABASE_URL, STAVOK_BROKER_URL, STAVOK_SESSION_SECRET`,
  admin: `./stavok admin --email E --name N [--zone Europe/Lisbon]
  Creates the first administrator; the password is read from STAVOK_PASSWORD or asked for. The installation must be running, or STAVOK_DATABASE_URL given.`,
  rebuild: `./stavok rebuild [--check] [--demo]
  Builds the rows that follow from events (orders, clocks, assets, where they stood) again, in a running installation or the one
  named by STAVOK_DATABASE_URL; --demo means the demo’s. --check writes nothing and ends with 1 where something differs.`,
  recompute: `./stavok recompute FILE.json
  Works every clock of a statement's data file out again, without a database; ends with 1 where something comes out otherwise.`,
  dev: `./stavok dev
  The demo on STAVOK_PORT, its server begun anew on changes, and the web application on the port after it, which follows its
  files at once.`,
  bench: `./stavok bench recurrence|working-time|upkeep|level|entitlement|register|orders|rota|field|first-screen
  Prints one JSON object with the measure, its reference of the same run, and their ratio.`,
  shots: `./stavok shots [NAME …]
  Makes the screenshots of docs/screenshots from a fresh demo with a fixed clock.`,
};

const COMMANDS: Record<string, () => Promise<{ run(args: string[]): Promise<void> }>> = {
  demo: () => import('./demo.ts'),
  test: () => import('./test.ts'),
  serve: () => import('./serve.ts'),
  admin: () => import('./admin.ts'),
  rebuild: () => import('./rebuild.ts'),
  recompute: () => import('./recompute.ts'),
  dev: () => import('./dev.ts'),
  bench: () => import('./bench.ts'),
  shots: () => import('./shots.ts'),
};

/** What went wrong while setting up, with what can be done about it. */
function sayProblem(error: unknown): string {
  if (!(error instanceof Error)) return String(error);
  if (process.env.STAVOK_LOG === 'debug') return error.stack ?? error.message;
  const { code, path, stderr } = error as NodeJS.ErrnoException & { stderr?: string };
  if (code === 'ENOSPC' || /no space left/i.test(`${error.message} ${stderr ?? ''}`))
    return `The disk is full${path ? ` at ${path}` : ''}: free some space, or choose another folder with STAVOK_DATA.`;
  if (code === 'EACCES' || code === 'EPERM')
    return `There is no right to use ${path ?? 'a file'}. Start as its owner, or choose another folder with STAVOK_DATA.`;
  if (code === 'EROFS') return `${path ?? 'The folder'} cannot be written to; choose another with STAVOK_DATA.`;
  return error.message;
}

const [name = '', ...args] = process.argv.slice(2);
if (args.includes('--help') || args.includes('-h')) process.stdout.write(`${HELP[name]}\n`);
else {
  const load = COMMANDS[name];
  if (!load) throw new Error(`no command ${name}`);
  try {
    await (await load()).run(args);
  } catch (error) {
    process.stderr.write(`${sayProblem(error)}\n`);
    process.exit(1);
  }
}
