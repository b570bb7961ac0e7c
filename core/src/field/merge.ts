// What was found at a machine, said on a phone that was out of reach while the office said something of it too.
import { FINDINGS, type Finding, type Findings } from '../orders/index.ts';
import { decided, refusal, refused, type Decided, type Refusal } from '../refusal.ts';

const NOTHING: Findings = { symptom: null, fault: null, cause: null, remedy: null };
const said = (word: string | null): string => (word === null ? 'nothing' : `“${word}”`);

/**
 * The findings that hold: what the phone changed from what it saw (`was`), and beside it what was changed meanwhile (`is`). Refused, each
 * at its field: one that both changed, to different words. Source: domain-work, Settled questions, Field.
 */
export function mergeFindings(was: Findings | null, is: Findings | null, wanted: Findings): Decided<Findings> {
  const [before, now] = [was ?? NOTHING, is ?? NOTHING];
  const merged: Partial<Record<Finding, string | null>> = {};
  const refusals: Refusal[] = [];
  for (const f of FINDINGS) {
    const isOurs = wanted[f] !== before[f];
    if (isOurs && now[f] !== before[f] && now[f] !== wanted[f])
      refusals.push(
        refusal('conflict', `The ${f} is ${said(now[f])} meanwhile, not ${said(wanted[f])}; say which holds.`, f),
      );
    merged[f] = isOurs ? wanted[f] : now[f];
  }
  return refusals.length > 0 ? refused(...refusals) : decided(merged as Findings);
}
