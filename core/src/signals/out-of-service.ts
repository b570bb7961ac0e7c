// When a machine is out of service to those who watch it: while somebody works on it, and for a settling time after.
import { instant, MINUTE, type Instant } from '../time/index.ts';
import type { Mask } from './delay.ts';

/** What people do on an order, as far as it says whether somebody works on its machine. */
export const OUT_OF_SERVICE_ACTS = [
  'arrived',
  'paused',
  'unplanned',
  'restored',
  'done',
  'called off',
] as const satisfies readonly string[];
export type AtMachine = { readonly at: Instant; readonly kind: (typeof OUT_OF_SERVICE_ACTS)[number] };

/** A freezer that stood open is cold again half an hour later. */
export const SETTLING_MS = 30 * MINUTE;

const OPEN_END = instant(Date.UTC(9999, 0, 1));

/**
 * Out of service from each arrival until the machine is back in use, or the work on it has ended, and `settlingMs` after that; open while
 * somebody is there. The acts of one order, of one machine, in any order of recording.
 * Source: issue of Signals (alert life), IEC 62682 (out of service).
 */
export function outOfServiceIn(acts: readonly AtMachine[], settlingMs = SETTLING_MS): Mask[] {
  const masks: Mask[] = [];
  let from: Instant | null = null;
  for (const { at, kind } of acts.toSorted((a, b) => a.at - b.at))
    if (kind === 'arrived') from ??= at;
    else if (from !== null) {
      masks.push({ from, to: instant(at + settlingMs), kind: 'out of service' });
      from = null;
    }
  if (from !== null) masks.push({ from, to: OPEN_END, kind: 'out of service' });
  return masks;
}
