// Rules made of others: when all or any of them are active. They act on their parts' active times, then on delays of their own.
import { decided, refusal, refused, type Decided } from '../refusal.ts';
import type { Instant } from '../time/index.ts';
import {
  delayEnds,
  maskAt,
  NORMAL,
  onDelayEnd,
  onJudgement,
  onMask,
  type Delays,
  type Mask,
  type Phase,
  type Step,
  type Turn,
} from './delay.ts';
import type { ActiveSpan } from './telling.ts';

export type Combining = 'all' | 'any';

/** Whether the parts make it abnormal at an instant; what is not known of a part is normal. */
const isMet = (by: Combining, parts: readonly (readonly ActiveSpan[])[], at: Instant): boolean => {
  const isActive = (spans: readonly ActiveSpan[]): boolean =>
    spans.some(({ from, to }) => from <= at && (to === null || to > at));
  return by === 'all' ? parts.length > 0 && parts.every(isActive) : parts.some(isActive);
};

/** What happens to a combination from its parts' active times, up to and at `until`. Source: settled questions, Signals. */
export function combined(
  by: Combining,
  delays: Delays,
  parts: readonly (readonly ActiveSpan[])[],
  until: Instant,
  masks: readonly Mask[] = [],
): Turn[] {
  const ends = parts.flat().flatMap(({ from, to }) => [from, ...(to === null ? [] : [to])]);
  const edges = [...new Set([...ends, ...masks.flatMap((m) => [m.from, m.to])])].sort((a, b) => a - b);
  const turns: Turn[] = [];
  let phase: Phase = NORMAL;
  const take = ({ phase: next, turn }: Step): void => {
    phase = next;
    if (turn) turns.push(turn);
  };
  const passDelays = (to: Instant, at: boolean): void => {
    for (;;) {
      const end = delayEnds(phase, delays);
      if (end === null || end > to || (end === to && !at)) return;
      take(onDelayEnd(phase, delays));
    }
  };
  for (const at of edges) {
    if (at > until) break;
    passDelays(at, false);
    const judged = isMet(by, parts, at) ? 'abnormal' : 'normal';
    const mask = maskAt(masks, at);
    take(onJudgement(phase, judged, at, delays, mask));
    if (masks.some((m) => m.from === at || m.to === at)) take(onMask(phase, judged, at, delays, mask));
  }
  passDelays(until, true);
  return turns;
}

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
