// A stopwatch for measurements: seconds of one run, what others wait meanwhile, and rounding for people.
import { monitorEventLoopDelay } from 'node:perf_hooks';

export async function secondsOf(work: () => unknown): Promise<number> {
  const start = process.hrtime.bigint();
  await work();
  return Number(process.hrtime.bigint() - start) / 1e9;
}

/** The longest time, in milliseconds, for which this process answered nobody while the work went on. */
export async function longestWaitOf(work: () => Promise<unknown>): Promise<number> {
  const delays = monitorEventLoopDelay({ resolution: 1 });
  delays.enable();
  await work();
  delays.disable();
  return rounded(delays.max / 1e6);
}

/** The most memory, in MiB, that this process held while the work went on, looked at every quarter of a second. */
export async function memoryOf(work: () => Promise<unknown>): Promise<number> {
  let most = process.memoryUsage.rss();
  const looking = setInterval(() => {
    most = Math.max(most, process.memoryUsage.rss());
  }, 250);
  await work();
  clearInterval(looking);
  return Math.round(most / 2 ** 20);
}

export function rounded(n: number, digits = 3): number {
  return n === 0 ? 0 : Number(n.toPrecision(digits));
}
