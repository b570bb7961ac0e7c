// What an order holds when an act is recorded: late truth is told in any order, so own times do not matter here.
import type { OrderId } from '../ids.ts';
import type { Instant } from '../time/index.ts';
import type { Findings, LineOutcome, OrderEvent, OrderLineFacts, SignOff } from './act.ts';

export type Held = {
  readonly tasks: ReadonlySet<number>;
  readonly forms: ReadonlySet<number>;
  readonly lines: HeldLines;
  readonly found: ReadonlyMap<number, Findings>;
  readonly handedOn: ReadonlyMap<number, OrderId>;
  readonly signed: SignOff | null;
};

/** What was said last of each line, whatever times were given to it. */
export type HeldLines = ReadonlyMap<
  number,
  { readonly outcome: Exclude<LineOutcome, 'to do'>; readonly text: string; readonly at: Instant }
>;

function linesOf(events: readonly OrderEvent[]): HeldLines {
  const said = new Map<number, { outcome: Exclude<LineOutcome, 'to do'>; text: string; at: Instant }>();
  for (const { act, at } of events)
    if (act.kind === 'line') {
      said.delete(act.lineId);
      if (act.outcome !== 'to do') said.set(act.lineId, { outcome: act.outcome, text: act.text.trim(), at });
    }
  return said;
}

function signedOf(events: readonly OrderEvent[]): SignOff | null {
  const last = events.findLast(({ act }) => act.kind === 'signed')?.act;
  return last?.kind === 'signed'
    ? { by: last.by.trim(), function: last.function.trim(), text: last.text.trim() }
    : null;
}

/** By what was recorded last; of something said again, that holds. */
export function heldOf(events: readonly OrderEvent[]): Held {
  return {
    tasks: new Set(events.flatMap(({ act }) => (act.kind === 'task' ? [act.taskId] : []))),
    forms: new Set(events.flatMap(({ act }) => (act.kind === 'form' ? [act.formId] : []))),
    lines: linesOf(events),
    found: new Map(
      events.flatMap(({ act }) => {
        if (act.kind !== 'found') return [];
        const { symptom, fault, cause, remedy } = act;
        return [[act.lineId, { symptom, fault, cause, remedy }] as const];
      }),
    ),
    handedOn: new Map(
      events.flatMap(({ act }) =>
        act.kind === 'followed up' ? act.lineIds.map((id) => [id, act.orderId] as const) : [],
      ),
    ),
    signed: signedOf(events),
  };
}

function recordedBefore(events: readonly OrderEvent[], event: OrderEvent): OrderEvent[] {
  const own = events.indexOf(event);
  return events.filter(
    ({ recordedAt }, i) => recordedAt < event.recordedAt || (recordedAt === event.recordedAt && i < own),
  );
}

export const heldBefore = (events: readonly OrderEvent[], event: OrderEvent): Held =>
  heldOf(recordedBefore(events, event));

/** Whether the order was done or called off when an act was recorded. */
export const wasOver = (events: readonly OrderEvent[], event: OrderEvent): boolean =>
  recordedBefore(events, event).some(({ act }) => act.kind === 'done' || act.kind === 'called off');

/** Lines left undone or taken off, with why. */
export const leftOf = (lines: HeldLines): Map<number, string> =>
  new Map([...lines].flatMap(([id, { outcome, text }]) => (outcome === 'done' ? [] : [[id, text] as const])));

/** Whether a line was on the order when something was recorded. */
export const wasThere = ({ since }: OrderLineFacts, recordedAt: Instant): boolean =>
  (since ?? null) === null || (since as Instant) <= recordedAt;

/** When the order was done; null: it is not. */
export const doneAtOf = (events: readonly OrderEvent[]): Instant | null =>
  events.find(({ act }) => act.kind === 'done')?.at ?? null;

/**
 * When the work on a line was done: the line by itself, or the order with it (`doneAt`). Null: not yet, or it was left, taken off, or goes
 * on with another order. A machine is back in use by then. Source: domain-work, Settled questions, Field.
 */
export function doneHereAt(
  { lines, handedOn }: Pick<Held, 'lines' | 'handedOn'>,
  doneAt: Instant | null,
  lineId: number,
): Instant | null {
  const said = lines.get(lineId);
  if (said) return said.outcome === 'done' ? said.at : null;
  return handedOn.has(lineId) ? null : doneAt;
}
