// What is said of each line: what was found, and what the work took as it was told at its end.
import { shareEvenly } from '../share-out.ts';
import type { Effort, Findings, OrderEvent, OrderState } from './act.ts';

/** What the work took, as it was told last; null while nobody told. */
export function effortOf(events: readonly OrderEvent[]): Effort | null {
  const told = events.flatMap(({ act }) => (act.kind === 'done' && act.effort ? [act.effort] : []));
  return told.at(-1) ?? null;
}

/** Of one line. Costs in minor units of the provider’s currency. */
export type SaidOfLine = Findings & Omit<Effort, 'fault'> & { readonly off: boolean };

/**
 * What is said of each line, by id. Minutes and costs of the whole order fall in equal parts to the lines that were done, the sum
 * kept exactly, of equal remainders the earlier line gets the unit; the fault told at the end is that of each whose own was not
 * said. Lines left undone took nothing.
 */
export function saidOfLines(
  lines: readonly { readonly id: number }[],
  events: readonly OrderEvent[],
  { left, found, off }: Pick<OrderState, 'left' | 'found' | 'off'>,
): ReadonlyMap<number, SaidOfLine> {
  const effort = effortOf(events);
  const done = lines.filter((l) => !left.has(l.id));
  const share = (total: number | null): (number | null)[] =>
    total === null ? done.map(() => null) : shareEvenly(total, done.length);
  const [labour, parts, other] = [
    share(effort?.labourMinutes ?? null),
    share(effort?.partsCost ?? null),
    share(effort?.otherCost ?? null),
  ];
  return new Map(
    lines.map(({ id }): [number, SaidOfLine] => {
      const own = found.get(id);
      const at = done.findIndex((l) => l.id === id);
      return [
        id,
        {
          symptom: own?.symptom ?? null,
          fault: own?.fault ?? (at < 0 ? null : (effort?.fault ?? null)),
          cause: own?.cause ?? null,
          remedy: own?.remedy ?? null,
          labourMinutes: labour[at] ?? null,
          partsCost: parts[at] ?? null,
          otherCost: other[at] ?? null,
          off: off.has(id),
        },
      ];
    }),
  );
}
