// How a term may end, as choices.
import { RENEWAL_MODES } from '#core/agreements/index.ts';

/** How a term ends, in the words of "at the end of the term it …". */
export const RENEWAL_CHOICES = RENEWAL_MODES.map(
  (m) => [m, m === 'to be renegotiated' ? 'is to be renegotiated' : m] as const,
);
