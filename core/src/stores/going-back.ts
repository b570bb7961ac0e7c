// Goods that go back to a supplier or maker: why, and what came of it.
import { decided, refusal, refused, type Decided, type Refusal } from '../refusal.ts';

export const RETURN_REASONS = ['not needed', 'wrong or broken', 'core', 'warranty'] as const;
export type ReturnReason = (typeof RETURN_REASONS)[number];
/** `core`: an old part that a maker takes back for its worth; `warranty`: a defective one that they make good. */
export const OLD_PARTS = ['core', 'warranty'] as const satisfies readonly ReturnReason[];

export const RETURN_STAGES = ['sent', 'credited', 'replaced', 'refused'] as const;
export type ReturnStage = (typeof RETURN_STAGES)[number];

export type ReturnAnswer = {
  readonly stage: Exclude<ReturnStage, 'sent'>;
  /** Minor units that the supplier gives back; of a credit only. */
  readonly credit: number | null;
};

/**
 * What a return comes to once its supplier answered, in minor units: `variance` is what the goods were worth when they left less what came
 * back for them; what is replaced comes back at the worth that left, so nothing differs. Refused: one that was answered already, a credit
 * without its amount or below 0, an amount where nothing is credited.
 * Source: domain-work, Settled questions, Stores: returns leave at average, their difference goes to variance.
 */
export function answerReturn(
  was: ReturnStage,
  worth: number,
  { stage, credit }: ReturnAnswer,
): Decided<{ readonly stage: ReturnStage; readonly credit: number | null; readonly variance: number }> {
  const wrong: Refusal[] = [];
  if (was !== 'sent') wrong.push(refusal('wrong-stage', `It was ${was} already.`, 'stage'));
  if (stage === 'credited' && credit === null) wrong.push(refusal('missing', 'Write what they give for it.', 'credit'));
  if (credit !== null && credit < 0) wrong.push(refusal('invalid', 'Not below 0.', 'credit'));
  if (stage !== 'credited' && credit !== null)
    wrong.push(refusal('unsupported', 'Only a credit has an amount; leave it empty.', 'credit'));
  const [first, ...more] = wrong;
  if (first) return refused(first, ...more);
  const variance = stage === 'replaced' ? 0 : worth - (credit ?? 0);
  return decided({ stage, credit, variance });
}
