// Builds the service worker of Field after the application, with the list of files that the phone keeps.
import { createHash } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { build, type Plugin, type Rolldown } from 'vite';

const PAGE = 'field/index.html';
const BESIDE = ['field/app.webmanifest', 'field/icon-192.png', 'field/icon-512.png', 'mark.svg'];
/** Other scripts of the fonts are fetched where somebody writes in them. */
const OTHER_SCRIPTS = /(?:cyrillic|greek|vietnamese|hebrew|devanagari).*\.woff2$/;

type File = { readonly url: string; readonly revision: string | null };

/** Chunks and styles that a page loads at once or later, by name. */
function filesOf(bundle: Rolldown.OutputBundle, entry: Rolldown.OutputChunk): Set<string> {
  const files = new Set<string>();
  const follow = (name: string): void => {
    const chunk = bundle[name];
    if (files.has(name) || chunk?.type !== 'chunk') return;
    files.add(name);
    const { importedCss, importedAssets } = chunk.viteMetadata ?? {};
    for (const own of [...(importedCss ?? []), ...(importedAssets ?? [])]) files.add(own);
    for (const next of [...chunk.imports, ...chunk.dynamicImports]) follow(next);
  };
  follow(entry.fileName);
  return files;
}

/** Fonts that the styles of the page name. */
function fontsIn(bundle: Rolldown.OutputBundle, files: ReadonlySet<string>): string[] {
  const fonts = Object.keys(bundle).filter((f) => f.endsWith('.woff2') && !OTHER_SCRIPTS.test(f));
  const styles = [...files].flatMap((f) => {
    const own = bundle[f];
    return own?.type === 'asset' && f.endsWith('.css') ? [String(own.source)] : [];
  });
  return fonts.filter((font) => styles.some((css) => css.includes(font.split('/').at(-1) as string)));
}

async function revised(folder: string, name: string): Promise<File> {
  const content = await readFile(join(folder, name));
  return { url: `/${name}`, revision: createHash('sha256').update(content).digest('hex').slice(0, 16) };
}

export const fieldWorker = (): Plugin => ({
  name: 'stavok-field-worker',
  apply: 'build',
  async writeBundle({ dir }, bundle) {
    const folder = dir as string;
    const entry = Object.values(bundle).find(
      (f): f is Rolldown.OutputChunk => f.type === 'chunk' && f.isEntry && (f.facadeModuleId ?? '').endsWith(PAGE),
    );
    if (!entry) throw new Error('the build has no page of Field');
    const files = filesOf(bundle, entry);
    const hashed = [...files, ...fontsIn(bundle, files)].map((name): File => ({ url: `/${name}`, revision: null }));
    const beside = await Promise.all([PAGE, ...BESIDE].map((name) => revised(folder, name)));
    await build({
      configFile: false,
      root: import.meta.dirname,
      logLevel: 'warn',
      define: {
        'self.__FIELD_FILES': JSON.stringify([...hashed, ...beside]),
        'process.env.NODE_ENV': JSON.stringify('production'),
      },
      build: {
        outDir: join(folder, 'field'),
        emptyOutDir: false,
        copyPublicDir: false,
        target: 'es2022',
        rolldownOptions: {
          input: join(import.meta.dirname, 'src/field/worker.ts'),
          output: { format: 'iife', entryFileNames: 'worker.js' },
        },
      },
    });
  },
});
