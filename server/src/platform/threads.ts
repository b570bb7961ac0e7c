// Heavy work beside the event loop: threads begun when there is work and ended when there has been none for a while. One pool for
// each process; a room hands in the file whose exports are its tasks.
import { Piscina } from 'piscina';
import type { Refusal } from '#core/refusal.ts';
import { CutShort, Refused } from './refuse.ts';

/** What ends work otherwise than with its value crosses the border between threads as values: of an error only its message would. */
export type Ended =
  | { readonly refusals: readonly Refusal[] }
  | { readonly cutShort: string }
  | { readonly fault: { readonly message: string; readonly code: string | null; readonly errno: number | null } };
export type Answered<T> = { readonly value: T } | Ended;

/** One may be long under way, as loading a file is; the other keeps short work from waiting for it. */
const THREADS = 2;
/** Beginning a thread takes nearly a second: whoever comes back within some minutes does not wait for it again. */
const IDLE_MS = 600_000;
/** What is within the limits of requests needs a fraction of this; past it the thread ends, not the server. */
const MOST_MEMORY_MB = 1536;
/** Batches of thousands of rows live for one transaction: with the usual room most of them would be copied along before they end. */
const YOUNG_MEMORY_MB = 192;

let pool: Piscina | null = null;

function threads(): Piscina {
  if (pool) return pool;
  pool = new Piscina({
    minThreads: 0,
    maxThreads: THREADS,
    idleTimeout: IDLE_MS,
    resourceLimits: { maxOldGenerationSizeMb: MOST_MEMORY_MB, maxYoungGenerationSizeMb: YOUNG_MEMORY_MB },
  });
  // A thread that ends by itself between two tasks concerns nobody: the next task begins a new one.
  pool.on('error', () => undefined);
  return pool;
}

function errorOf(ended: Ended): Error {
  if ('refusals' in ended) return new Refused(ended.refusals);
  if ('cutShort' in ended) return new CutShort(ended.cutShort, null);
  const { message, ...more } = ended.fault;
  return Object.assign(new Error(message), more);
}

/** A task takes one value that can be copied to a thread. */
type Task = (ask: never) => unknown;

const FROM_SOURCES = new URL('./thread-from-sources.mjs', import.meta.url).href;
/** What the pool is asked for: built files know how to begin, sources have to be read first. */
const begun = (file: string, name: string, ask: unknown): { task: unknown; filename: string; name: string } =>
  file.endsWith('.ts')
    ? { task: { file, name, ask }, filename: FROM_SOURCES, name: 'carryOut' }
    : { task: ask, filename: file, name };

/** The tasks a file exports, run on a thread; `tooLarge` is what is refused when one needs more memory than a thread has. */
export function onThreads<Tasks extends Record<keyof Tasks, Task>>(file: URL, tooLarge: Refusal) {
  return async <K extends keyof Tasks & string>(
    name: K,
    ask: Parameters<Tasks[K]>[0],
    signal?: AbortSignal,
  ): Promise<Awaited<ReturnType<Tasks[K]>> extends Answered<infer T> ? T : never> => {
    try {
      const { task, ...where } = begun(file.href, name, ask);
      const answer = (await threads().run(task, { ...where, ...(signal && { signal }) })) as Answered<never>;
      if ('value' in answer) return answer.value;
      throw errorOf(answer);
    } catch (error) {
      if ((error as { code?: string }).code !== 'ERR_WORKER_OUT_OF_MEMORY') throw error;
      throw new Refused([tooLarge]);
    }
  };
}
