// First screen: script bytes, packed, until Today stands for somebody signed in, against the drawing library alone.
import { readFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { buildWeb, WEB_ROOT } from '../commands/house.ts';
import { rounded } from './stopwatch.ts';

const LIMIT = 250_000;

type Chunk = { readonly file: string; readonly imports?: readonly string[] };
type Manifest = Readonly<Record<string, Chunk>>;

/** The files of a page and of everything it names at its head; what it loads later is not among them. */
function filesOf(manifest: Manifest, pages: readonly string[]): ReadonlySet<string> {
  const files = new Set<string>();
  const seen = new Set<string>();
  const left = [...pages];
  for (let name = left.pop(); name !== undefined; name = left.pop()) {
    if (seen.has(name)) continue;
    seen.add(name);
    const chunk = manifest[name];
    if (!chunk) throw new Error(`The build names no ${name}.`);
    files.add(chunk.file);
    left.push(...(chunk.imports ?? []));
  }
  return files;
}

const packed = (bytes: Buffer): number => gzipSync(bytes).length;

async function sizeOf(files: ReadonlySet<string>): Promise<number> {
  const sizes = await Promise.all([...files].map(async (file) => packed(await readFile(join(WEB_ROOT, file)))));
  return sizes.reduce((sum, size) => sum + size, 0);
}

const readManifest = async (of = 'manifest'): Promise<Manifest> =>
  JSON.parse(await readFile(join(WEB_ROOT, `.vite/${of}.json`), 'utf8')) as Manifest;

/** Packed bytes of script that Field needs to begin. */
export const fieldScript = async (): Promise<number> =>
  sizeOf(filesOf(await readManifest('field'), ['field/index.html']));

export async function measure(): Promise<unknown> {
  await buildWeb();
  const manifest = await readManifest();
  const cards = Object.keys(manifest).filter((name) => /(^|\/)today\.tsx$/.test(name));
  if (cards.length < 2) throw new Error('The build names no cards of Today: their files are told by their name.');
  const entry = await sizeOf(filesOf(manifest, ['index.html']));
  const today = await sizeOf(filesOf(manifest, ['index.html', ...cards]));
  const signIn = await sizeOf(filesOf(manifest, ['index.html', 'src/shell/sign-in.tsx']));
  const library = packed(
    await readFile(
      join(createRequire(import.meta.url).resolve('react-dom/package.json'), '../cjs/react-dom-client.production.js'),
    ),
  );
  if (today > LIMIT) throw new Error(`Today needs ${today} bytes of script, more than ${LIMIT}.`);
  return {
    bench: 'first-screen',
    reference: 'react-dom alone, as published, not minified',
    entryBytes: entry,
    signInBytes: signIn,
    todayBytes: today,
    referenceBytes: library,
    ratio: rounded(today / library, 2),
    wanted: `≤ ${LIMIT} bytes for Today`,
  };
}
