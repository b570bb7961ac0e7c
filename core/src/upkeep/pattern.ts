// Visit patterns: how a schedule that was made from one comes to follow it again after it was changed.
import { addDays, type LocalDate } from '../time/index.ts';
import type { WrittenCadence } from './written.ts';

export type FollowerFacts = {
  readonly cadence: WrittenCadence;
  /** Whether anything but the cadence is otherwise than in the pattern. */
  readonly otherTerms: boolean;
  readonly isDraft: boolean;
  /** The latest identifying date of a visit that is raised; null: none is. */
  readonly lastRaised: LocalDate | null;
};

export type Following =
  /** It is as the pattern says. */
  | { readonly kind: 'same' }
  /** Its terms are changed where it stands: no visit gets another identity. */
  | { readonly kind: 'in place' }
  /** Its visits come by the new rule from a day on; until then they stay, and what is raised stays. */
  | { readonly kind: 'from a day on'; readonly from: LocalDate };

/**
 * How a schedule comes to follow its pattern, from a wished day on: visits that exist keep their identity, so that another rule
 * holds from behind the last raised one, at the earliest. One that counts from the last service has no grid: it is changed in place.
 * Source: settled questions, Upkeep (existence and identity stay with the rule’s original date).
 */
export function planFollowing(facts: FollowerFacts, pattern: WrittenCadence, wished: LocalDate): Following {
  const { cadence, otherTerms, isDraft, lastRaised } = facts;
  if (JSON.stringify(cadence) === JSON.stringify(pattern)) return { kind: otherTerms ? 'in place' : 'same' };
  if (isDraft || (cadence.kind === 'since service' && pattern.kind === 'since service')) return { kind: 'in place' };
  const behind = lastRaised === null ? wished : addDays(lastRaised, 1);
  return { kind: 'from a day on', from: behind > wished ? behind : wished };
}
