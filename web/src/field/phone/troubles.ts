// What can stand in a phone's way, and in which words it is said: no room, no answer, another window at the same work.
import type { Problem } from '#api/shapes.ts';
import { refusal } from '#core/refusal.ts';

export const isUnreachable = ({ status }: Problem): boolean =>
  status === 0 || status === 502 || status === 503 || status === 504;

export const isFull = (fault: unknown): boolean => fault instanceof DOMException && fault.name === 'QuotaExceededError';
export const FULL = refusal(
  'too-large',
  'The phone has no room left. Delete something from it, then do this again; nothing else is lost.',
);
export const UNKEPT = refusal(
  'conflict',
  'The phone could not keep this. Try again; if it stays so, note it down and ring the dispatcher.',
);

export const problemOf = (detail: string): Problem => ({
  ...{
    type: 'urn:stavok:problem:not-allowed',
    title: 'Not here',
    status: 403,
    code: 'not-allowed',
    errors: [],
    detail,
  },
});

/** One window of the phone sends at a time; another one has nothing to do meanwhile. */
export async function oneAtATime(work: () => Promise<boolean>): Promise<boolean> {
  if (!('locks' in navigator)) return work();
  return navigator.locks.request('stavok-field', { ifAvailable: true }, (lock) => (lock ? work() : true));
}
