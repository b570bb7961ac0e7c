// Jobs: what is done beside requests is tried again with growing waits, and laid aside with its reason when that does not help.

export const JOB_STATES = ['waiting', 'running', 'done', 'dead'] as const;
export type JobState = (typeof JOB_STATES)[number];

/** Seconds to wait after the first, second … failed try; after the last of them the job is dead. */
const WAITS = [10, 60, 300, 1800, 7200] as const;

/**
 * When a job that failed is tried again: milliseconds from now, spread by up to a fifth so that jobs that failed together
 * do not come back together; null when it has been tried often enough. `failed` counts the failed tries, this one too;
 * `chance` lies in [0, 1).
 */
export function waitAfter(failed: number, chance: number): number | null {
  const seconds = WAITS[failed - 1];
  return seconds === undefined ? null : Math.round(seconds * 1000 * (1 + chance / 5));
}
