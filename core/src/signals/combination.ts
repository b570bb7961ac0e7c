// Rules made of others: abnormal while all or any of them are active, then on delays of their own.
import { decided, refusal, refused, type Decided } from '../refusal.ts';
import { instant, type Instant } from '../time/index.ts';
import type { Condition, Sample } from './condition.ts';
import type { Turn } from './delay.ts';
import type { ActiveSpan } from './telling.ts';

/**
 * What a rule of parts reads in place of a device's channel: how many of its parts are active, at every instant at which that changes.
 * What is not known of a part is not active. Source: settled questions, Signals (combinations act on their parts' active states).
 */
export function activeParts(parts: readonly (readonly ActiveSpan[])[]): Sample[] {
  const changes = new Map<Instant, number>();
  const add = (at: Instant, n: number): unknown => changes.set(at, (changes.get(at) ?? 0) + n);
  for (const { from, to } of parts.flat()) {
    add(from, 1);
    if (to !== null) add(to, -1);
  }
  let active = 0;
  return [...changes]
    .filter(([, change]) => change !== 0)
    .sort(([a], [b]) => a - b)
    .map(([at, change]) => ({ at: instant(at), value: (active += change) }));
}

/** When something was active, by what happened to it in order. */
export function activeSpans(turns: readonly Turn[]): ActiveSpan[] {
  const spans: ActiveSpan[] = [];
  for (const turn of turns)
    if (turn.kind === 'started') spans.push({ from: turn.from, to: null });
    else if (spans.length > 0) spans.push({ from: (spans.pop() as ActiveSpan).from, to: turn.at });
  return spans;
}

/** Whether a rule is made of others, and of one of a name: names are one whatever their case. */
export const isOfParts = ({ condition }: { readonly condition: Condition }): boolean => condition.kind === 'parts';
export const isPartOf = (name: string, { condition }: { readonly condition: Condition }): boolean =>
  condition.kind === 'parts' && condition.of.some((part) => part.toLowerCase() === name.toLowerCase());

/** What rules refer to, by their ids: the parts they combine, or who suppresses them. */
export type References = ReadonlyMap<number, readonly number[]>;

/** Refused: a rule that refers to itself, over others or at once; named are those on the way. */
export function checkCircles(references: References, of: number): Decided<true> {
  const way: number[] = [];
  const done = new Set<number>();
  const visit = (id: number): boolean => {
    if (way.includes(id)) return id === of;
    if (done.has(id)) return false;
    done.add(id);
    way.push(id);
    for (const next of references.get(id) ?? []) if (next === of || visit(next)) return true;
    way.pop();
    return false;
  };
  return visit(of)
    ? refused(
        refusal(
          'conflict',
          `The rule would refer to itself over ${way.length === 1 ? 'itself' : `${way.length - 1} others`}.`,
          'of',
        ),
      )
    : decided(true);
}
