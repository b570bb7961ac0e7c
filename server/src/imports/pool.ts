// The threads of imports: begun when a file comes, ended when none has come for a while. One pool for each process.
import { Piscina } from 'piscina';
import { refusal } from '#core/refusal.ts';
import { Refused } from '../platform/refuse.ts';
import type * as thread from './thread.ts';
import type { Answered } from './thread.ts';

/** One loads, one looks through: a dry run never waits for somebody else's long import. */
const THREADS = 2;
const IDLE_MS = 20_000;
/** A file within the limits needs a fraction of this; past it the thread ends, not the server. */
const MOST_MEMORY_MB = 1536;

let pool: Piscina | null = null;

function threads(): Piscina {
  if (pool) return pool;
  pool = new Piscina({
    filename: new URL('./thread.mjs', import.meta.url).href,
    minThreads: 0,
    maxThreads: THREADS,
    idleTimeout: IDLE_MS,
    resourceLimits: { maxOldGenerationSizeMb: MOST_MEMORY_MB },
  });
  // A thread that ends by itself between two tasks concerns nobody: the next task begins a new one.
  pool.on('error', () => undefined);
  return pool;
}

type Tasks = typeof thread;

/** Runs one of the thread's tasks; its refusals are thrown here as they would be anywhere else. */
export async function onThread<K extends keyof Tasks>(
  name: K,
  ask: Parameters<Tasks[K]>[0],
  signal?: AbortSignal,
): Promise<Awaited<ReturnType<Tasks[K]>> extends Answered<infer T> ? T : never> {
  try {
    const answer = (await threads().run(ask, { name, ...(signal && { signal }) })) as Answered<never>;
    if ('refusals' in answer) throw new Refused(answer.refusals);
    return answer.value;
  } catch (error) {
    if ((error as { code?: string }).code !== 'ERR_WORKER_OUT_OF_MEMORY') throw error;
    throw new Refused([refusal('too-large', 'The file is too large to be looked through at once; split it.', 'file')]);
  }
}
