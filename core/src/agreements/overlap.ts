// Overlapping coverage: lines of one agreement that name the same thing for the same days. Allowed, but only when meant.
import type { Term } from '../entitlement/index.ts';

/** What a line names, as one word (such as "asset 17"), and when it holds. */
export type NamedLine = { readonly names: string; readonly term: Term };

/** Whether two terms share a day; both ends belong to each. */
export function termsOverlap(a: Term, b: Term): boolean {
  return (a.to === null || b.from <= a.to) && (b.to === null || a.from <= b.to);
}

/**
 * The added lines that name what a held line names already on a day of theirs. A line for an asset beside one for its place is not
 * among them: the closer one goes first, which is how exceptions are written.
 */
export function coveredAlready<L extends NamedLine>(held: readonly NamedLine[], added: readonly L[]): L[] {
  const byName = new Map<string, Term[]>();
  for (const { names, term } of held) byName.set(names, [...(byName.get(names) ?? []), term]);
  return added.filter((line) => (byName.get(line.names) ?? []).some((term) => termsOverlap(term, line.term)));
}
