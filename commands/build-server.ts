// The server as files of JavaScript: read from its sources it, and each thread it begins, takes five times as long to begin.
import { existsSync } from 'node:fs';
import { readdir, rename, rm, stat } from 'node:fs/promises';
import { dirname, join, relative, sep } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import type { Plugin } from 'vite';

const ROOT = fileURLToPath(new URL('..', import.meta.url));
const SOURCES = join(ROOT, 'server', 'src');
export const SERVER_ROOT = join(ROOT, 'dist', 'server');

/** `…/settle/thread.ts` is built as `settle-thread`, `…/field/report-thread.ts` as `field-report-thread`. */
const builtName = (path: string): string => relative(SOURCES, path).split(sep).join('-').replace(/\.ts$/, '');

/** Where a source names a file beside it: one that a thread begins with, or one that stays where it is (migrations, words). */
const BESIDE = /new URL\((['`])(\.[^'`]*)\1, import\.meta\.url\)/g;
const isThread = (path: string): boolean => path.endsWith('thread.ts');

/** Says in the server's sources where files beside them are found once it is built. */
function besideSources(thread: (file: string) => string, other: (source: string) => string | null): Plugin {
  return {
    name: 'stavok-beside-sources',
    enforce: 'pre',
    transform(code, id) {
      if (!id.startsWith(SOURCES) || !code.includes('import.meta.url')) return null;
      return code.replace(BESIDE, (as, quote: string, path: string) => {
        if (isThread(path)) return thread(`${builtName(join(dirname(id), path))}.js`);
        const from = other(id);
        return from === null ? as : `new URL(${quote}${path}${quote}, ${from})`;
      });
    },
  };
}

const forRunning = (): Plugin =>
  besideSources(
    (file) => `new URL('./${file}', import.meta.url)`,
    (source) => `new URL('${relative(SERVER_ROOT, source).split(sep).join('/')}', import.meta.url)`,
  );

/** As tests run it, from its sources, the server's threads are those that were built. */
export const forTests = (): Plugin =>
  besideSources(
    (file) => `new URL('${pathToFileURL(join(SERVER_ROOT, file)).href}')`,
    () => null,
  );

async function threadSources(): Promise<string[]> {
  const files = await readdir(SOURCES, { recursive: true });
  return files.filter(isThread).map((f) => join(SOURCES, f));
}

/** The newest change below a folder, in milliseconds. */
export async function newest(folder: string): Promise<number> {
  let latest = 0;
  for (const entry of await readdir(folder, { withFileTypes: true, recursive: true })) {
    if (entry.isFile()) latest = Math.max(latest, (await stat(join(entry.parentPath, entry.name))).mtimeMs);
  }
  return latest;
}

/** Builds the server when a source is newer than the build. */
export async function buildServer(): Promise<void> {
  const main = join(SERVER_ROOT, 'main.js');
  const sources = await Promise.all([
    newest(SOURCES),
    newest(join(ROOT, 'core/src')),
    newest(join(ROOT, 'api/src')),
    ...['package-lock.json', 'commands/build-server.ts'].map((f) => stat(join(ROOT, f)).then((s) => s.mtimeMs)),
  ]);
  if (existsSync(main) && (await stat(main)).mtimeMs > Math.max(...sources)) return;
  const { build } = await import('vite');
  // Beside its place, and moved there as a whole: cut off in the middle, the next start builds it anew.
  const making = `${SERVER_ROOT}.making`;
  await build({
    configFile: false,
    root: ROOT,
    logLevel: 'error',
    publicDir: false,
    plugins: [forRunning()],
    build: {
      ssr: true,
      target: 'node20',
      outDir: making,
      emptyOutDir: true,
      rolldownOptions: {
        input: Object.fromEntries([join(SOURCES, 'main.ts'), ...(await threadSources())].map((f) => [builtName(f), f])),
        output: { entryFileNames: '[name].js', chunkFileNames: 'part-[hash].js' },
      },
    },
  });
  await rm(SERVER_ROOT, { recursive: true, force: true });
  await rename(making, SERVER_ROOT);
}
