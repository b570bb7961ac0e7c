// Processes that tests and measurements begin, made one file each: read from their sources they take three times as long to begin.
import { mkdir, mkdtemp, rm } from 'node:fs/promises';
import { basename, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { build } from 'vite';

const DIST = fileURLToPath(new URL('../dist/', import.meta.url));

/** A source as one file of its own, until it is thrown away. */
export async function bundled(source: URL): Promise<{ readonly file: string; readonly discard: () => Promise<void> }> {
  // Below the house, where what is installed is found.
  await mkdir(DIST, { recursive: true });
  const outDir = await mkdtemp(join(DIST, 'process-'));
  await build({
    configFile: false,
    logLevel: 'error',
    build: { ssr: fileURLToPath(source), outDir, emptyOutDir: false },
  });
  return {
    file: join(outDir, `${basename(source.pathname, '.ts')}.js`),
    discard: () => rm(outDir, { recursive: true, force: true }),
  };
}
