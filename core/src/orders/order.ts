// Work orders: stages, the events that move them, and which event may follow which.
import { decided, refusal, refused, type Decided } from '../refusal.ts';
import type { PersonId } from '../ids.ts';
import { shareEvenly } from '../share-out.ts';
import type { ClockEvent, PauseReason } from '../service-levels/index.ts';
import type { Instant, LocalDate } from '../time/index.ts';
import { mustBeFilled, takeAnswers, type FormAnswer, type OrderForm } from './form.ts';

export const ORDER_KINDS = ['preventive', 'repair', 'inspection', 'installation'] as const;
export type OrderKind = (typeof ORDER_KINDS)[number];

export const ORDER_STAGES = ['raised', 'planned', 'sent', 'on site', 'done', 'settled', 'called off'] as const;
export type OrderStage = (typeof ORDER_STAGES)[number];
/** Nothing is left to do on these. */
export const FINISHED_STAGES = ['done', 'settled', 'called off'] as const satisfies readonly OrderStage[];
export const OPEN_STAGES = ['raised', 'planned', 'sent', 'on site'] as const satisfies readonly Exclude<
  OrderStage,
  (typeof FINISHED_STAGES)[number]
>[];
export const isFinished = (stage: OrderStage): boolean => (FINISHED_STAGES as readonly OrderStage[]).includes(stage);

/** What a finished job took, for whoever quotes the next one like it. Cost in minor units of the provider’s currency. */
export type Effort = {
  readonly fault: string | null;
  readonly labourMinutes: number | null;
  readonly partsCost: number | null;
  readonly otherCost: number | null;
};

/** Who goes is a person of ours, with the name they had then; without an id somebody from outside, known by name only. */
export type OrderAct =
  | { readonly kind: 'raised'; readonly text: string }
  | {
      readonly kind: 'planned';
      readonly technicianId?: PersonId | null;
      readonly technician: string;
      readonly date: LocalDate;
    }
  | { readonly kind: 'sent' }
  | { readonly kind: 'told'; readonly technicianId?: PersonId | null; readonly technician: string }
  | { readonly kind: 'arrived' }
  | { readonly kind: 'paused'; readonly reason: PauseReason; readonly text: string }
  | { readonly kind: 'resumed' }
  | { readonly kind: 'task'; readonly taskId: number; readonly outcome: 'done' | 'left'; readonly text: string }
  /** One of several machines is left undone, or is to be done after all. */
  | { readonly kind: 'line'; readonly lineId: number; readonly outcome: 'left' | 'to do'; readonly text: string }
  | { readonly kind: 'form'; readonly formId: number; readonly answers: readonly FormAnswer[] }
  | { readonly kind: 'restored' }
  | { readonly kind: 'done'; readonly text: string; readonly effort?: Effort }
  | { readonly kind: 'called off'; readonly text: string }
  | { readonly kind: 'alert joined' | 'alert ended'; readonly alertId: number; readonly text: string }
  | { readonly kind: 'note'; readonly text: string };

export type OrderActKind = OrderAct['kind'];

/** An act with its own time; events recorded later (a phone was offline) keep both times. */
export type OrderEvent = { readonly at: Instant; readonly recordedAt: Instant; readonly act: OrderAct };

export type OrderState = {
  readonly stage: OrderStage;
  readonly plannedFor: LocalDate | null;
  /** The person of ours who goes, and the name they were planned or told by; a name alone is somebody from outside. */
  readonly technicianId: PersonId | null;
  readonly technician: string | null;
  readonly pausedSince: Instant | null;
  readonly restoredAt: Instant | null;
  readonly doneAt: Instant | null;
  /** Tasks settled so far: ticked, or left with a reason. */
  readonly tasks: ReadonlyMap<number, 'done' | 'left'>;
  /** Answers of the forms filled so far; filled again, the last answers hold. */
  readonly forms: ReadonlyMap<number, readonly FormAnswer[]>;
  /** Lines whose machine was left undone, each with the reason. */
  readonly left: ReadonlyMap<number, string>;
};

export type OrderFacts = {
  readonly kind: OrderKind;
  /** When the call was received, the alert became active or the visit was raised: no event lies before it. */
  readonly startedAt: Instant;
  /** Its machines, one each. */
  readonly lines: readonly { readonly id: number }[];
  readonly tasks: readonly (OfLine & { readonly id: number; readonly text: string; readonly mandatory: boolean })[];
  readonly forms: readonly (OfLine & OrderForm)[];
};
type OfLine = { readonly lineId: number };

const begun: OrderState = {
  stage: 'raised',
  plannedFor: null,
  technicianId: null,
  technician: null,
  pausedSince: null,
  restoredAt: null,
  doneAt: null,
  tasks: new Map(),
  forms: new Map(),
  left: new Map(),
};

const isOpen = (stage: OrderStage): boolean => !isFinished(stage);

function wrong(state: OrderState, what: string, right: string): Decided<OrderState> {
  return refused(refusal('wrong-stage', `The order is ${state.stage}: ${what}. ${right}`, 'kind'));
}

/** One step of the order's life; refuses an event that its stage does not allow and says what would be right. */
function step(facts: OrderFacts, state: OrderState, event: OrderEvent, held: Held): Decided<OrderState> {
  const { act, at } = event;
  if (act.kind === 'note' || act.kind === 'alert joined' || act.kind === 'alert ended' || act.kind === 'raised')
    return decided(state);
  // What was done at a machine has its own time, which may be later than that of a “done” told late: what counts is when it was recorded.
  const isAnswer = act.kind === 'task' || act.kind === 'form' || act.kind === 'line';
  if (isAnswer ? held.isOver : !isOpen(state.stage)) {
    const ended: OrderState = isOpen(state.stage) ? { ...state, stage: 'done' } : state;
    return wrong(ended, 'nothing more happens to it', 'Raise a follow-up order instead.');
  }
  switch (act.kind) {
    case 'planned':
      if (state.stage === 'on site')
        return wrong(state, 'it cannot be planned again', 'Finish it, or raise a follow-up.');
      return decided({ ...state, stage: 'planned', plannedFor: act.date, ...whoGoes(act) });
    case 'sent':
      if (state.stage !== 'planned')
        return wrong(state, 'only a planned order is sent', 'Plan it first: who goes, and when.');
      return decided({ ...state, stage: 'sent' });
    case 'told':
      return decided({ ...state, ...whoGoes(act) });
    case 'arrived':
      if (state.stage === 'on site')
        return wrong(state, 'the arrival is recorded already', 'Add a note if somebody else came too.');
      return decided({ ...state, stage: 'on site' });
    case 'paused':
      if (state.pausedSince !== null) return wrong(state, 'it is paused already', 'Resume it first.');
      return decided({ ...state, pausedSince: at });
    case 'resumed':
      if (state.pausedSince === null) return wrong(state, 'it is not paused', 'There is nothing to resume.');
      return decided({ ...state, pausedSince: null });
    case 'task':
      if (!facts.tasks.some((t) => t.id === act.taskId))
        return refused(refusal('not-found', 'That task is not on this order.', 'taskId'));
      if (act.outcome === 'left' && act.text.trim() === '')
        return refused(refusal('missing', 'Say why the task is left undone.', 'text'));
      return decided({ ...state, tasks: new Map([...state.tasks, [act.taskId, act.outcome]]) });
    case 'form':
      return fill(facts, state, act.formId, act.answers);
    case 'line':
      return leave(facts, state, act, held);
    case 'restored':
      if (state.restoredAt !== null)
        return wrong(state, 'back in use is recorded already', 'Add a note if it failed again.');
      return decided({ ...state, restoredAt: at, pausedSince: null });
    case 'done':
      return finish(facts, state, at, held);
    case 'called off':
      if (act.text.trim() === '') return refused(refusal('missing', 'Say why the order is called off.', 'text'));
      return decided({ ...state, stage: 'called off', pausedSince: null });
  }
}

/** Acts from before technicians were persons have no id. */
const whoGoes = ({ technicianId, technician }: Extract<OrderAct, { kind: 'planned' | 'told' }>) => ({
  technicianId: technicianId ?? null,
  technician,
});

function fill(
  facts: OrderFacts,
  state: OrderState,
  formId: number,
  answers: readonly FormAnswer[],
): Decided<OrderState> {
  const form = facts.forms.find((f) => f.id === formId);
  if (!form) return refused(refusal('not-found', 'That form is not on this order.', 'formId'));
  const taken = takeAnswers(form, answers);
  return taken.ok ? decided({ ...state, forms: new Map([...state.forms, [formId, taken.value]]) }) : taken;
}

function leave(
  { lines }: OrderFacts,
  state: OrderState,
  { lineId, outcome, text }: Extract<OrderAct, { kind: 'line' }>,
  held: Held,
): Decided<OrderState> {
  if (!lines.some((l) => l.id === lineId))
    return refused(refusal('not-found', 'That machine is not on this order.', 'lineId'));
  if (outcome === 'to do') return decided(state);
  if (text.trim() === '') return refused(refusal('missing', 'Say why the machine is left undone.', 'text'));
  if (lines.every((l) => l.id === lineId || held.left.has(l.id)))
    return refused(refusal('unsupported', 'Nothing would be done then: call the order off instead.', 'lineId'));
  return decided(state);
}

/** What the order holds when an act is recorded: late truth is told in any order, so own times do not matter here. */
type Held = {
  readonly tasks: ReadonlySet<number>;
  readonly forms: ReadonlySet<number>;
  readonly left: OrderState['left'];
  readonly isOver: boolean;
};

/** What was said last of each line, whatever times were given to it. */
function leftOf(events: readonly OrderEvent[]): Map<number, string> {
  const left = new Map<number, string>();
  for (const { act } of events)
    if (act.kind === 'line') {
      left.delete(act.lineId);
      if (act.outcome === 'left') left.set(act.lineId, act.text.trim());
    }
  return left;
}

function heldBefore(events: readonly OrderEvent[], event: OrderEvent): Held {
  const own = events.indexOf(event);
  const before = events.filter(
    ({ recordedAt }, i) => recordedAt < event.recordedAt || (recordedAt === event.recordedAt && i < own),
  );
  return {
    tasks: new Set(before.flatMap(({ act }) => (act.kind === 'task' ? [act.taskId] : []))),
    forms: new Set(before.flatMap(({ act }) => (act.kind === 'form' ? [act.formId] : []))),
    left: leftOf(before),
    isOver: before.some(({ act }) => act.kind === 'done' || act.kind === 'called off'),
  };
}

/** Of many machines the same is asked: said once. */
function listed(texts: readonly string[]): string {
  const times = new Map<string, number>();
  for (const text of texts) times.set(text, (times.get(text) ?? 0) + 1);
  return [...times].map(([text, n]) => (n === 1 ? text : `${text} (${n} times)`)).join('; ');
}

function finish(facts: OrderFacts, state: OrderState, at: Instant, held: Held): Decided<OrderState> {
  if (state.stage !== 'on site' && state.restoredAt === null) {
    return wrong(
      state,
      'nobody was on site yet',
      'Record “on site” first, or “back in use” if it was put right from afar.',
    );
  }
  if (facts.kind === 'repair' && state.restoredAt === null) {
    return refused(
      refusal('missing', 'A repair is done once the asset is back in use: record when that was first.', 'kind'),
    );
  }
  // Of a machine that is left undone nothing is asked.
  const isAsked = ({ lineId }: OfLine): boolean => !held.left.has(lineId);
  const open = facts.tasks.filter((t) => isAsked(t) && t.mandatory && !held.tasks.has(t.id));
  if (open.length > 0) {
    return refused(
      refusal(
        'missing',
        `Not done yet: ${listed(open.map((t) => t.text))}. Tick each, or leave it with a reason.`,
        'kind',
      ),
    );
  }
  const unfilled = facts.forms.filter((f) => isAsked(f) && mustBeFilled(f) && !held.forms.has(f.id));
  if (unfilled.length > 0) {
    return refused(refusal('missing', `Fill in first: ${listed(unfilled.map((f) => f.name))}.`, 'kind'));
  }
  return decided({ ...state, stage: 'done', doneAt: at, pausedSince: null });
}

/** Events in the order of their own time; those of one moment keep the order in which they were recorded. */
export function inOwnTime(events: readonly OrderEvent[]): OrderEvent[] {
  return events
    .map((event, i) => ({ event, i }))
    .sort((a, b) => a.event.at - b.event.at || a.i - b.i)
    .map(({ event }) => event);
}

/** The order's state after all its events, given as they were recorded; refuses the first event that could not have happened. */
export function stateOfOrder(facts: OrderFacts, events: readonly OrderEvent[]): Decided<OrderState> {
  let state = begun;
  for (const event of inOwnTime(events)) {
    const next = step(facts, state, event, heldBefore(events, event));
    if (!next.ok) return next;
    state = next.value;
  }
  return decided({ ...state, left: leftOf(events) });
}

/** A device's clock may run ahead of the server's by this much. */
const CLOCK_TOLERANCE_MS = 2 * 60_000;

/**
 * Decides whether an event may be added and gives the state after it. Refused: a time in the future or before the order's
 * start, and any event that the whole sequence, taken by own times, does not allow.
 */
export function recordEvent(facts: OrderFacts, events: readonly OrderEvent[], event: OrderEvent): Decided<OrderState> {
  if (event.at > event.recordedAt + CLOCK_TOLERANCE_MS) {
    return refused(refusal('in-the-future', 'That time has not come yet; give the time at which it happened.', 'at'));
  }
  if (event.at < facts.startedAt) {
    return refused(
      refusal('out-of-order', 'That is before the order began; give a time after the call or alert.', 'at'),
    );
  }
  return stateOfOrder(facts, [...events, event]);
}

/** What the work took, as it was told last; null while nobody told. */
export function effortOf(events: readonly OrderEvent[]): Effort | null {
  const told = events.flatMap(({ act }) => (act.kind === 'done' && act.effort ? [act.effort] : []));
  return told.at(-1) ?? null;
}

/**
 * The effort of an order as it falls to its lines, by id: minutes and costs in equal parts to the machines that were done, the sum
 * kept exactly, of equal remainders the earlier line gets the unit; the fault is that of each. Lines left undone took nothing.
 */
export function effortByLine(
  effort: Effort,
  lines: readonly { readonly id: number }[],
  left: OrderState['left'],
): ReadonlyMap<number, Effort> {
  const done = lines.filter((l) => !left.has(l.id));
  const share = (total: number | null): (number | null)[] =>
    total === null ? done.map(() => null) : shareEvenly(total, done.length);
  const [labour, parts, other] = [share(effort.labourMinutes), share(effort.partsCost), share(effort.otherCost)];
  const none: Effort = { fault: null, labourMinutes: null, partsCost: null, otherCost: null };
  return new Map([
    ...lines.map(({ id }) => [id, none] as const),
    ...done.map(({ id }, i): [number, Effort] => [
      id,
      {
        fault: effort.fault,
        labourMinutes: labour[i] ?? null,
        partsCost: parts[i] ?? null,
        otherCost: other[i] ?? null,
      },
    ]),
  ]);
}

/** The events that clocks listen to. */
export function clockEventsOf(events: readonly OrderEvent[]): ClockEvent[] {
  return inOwnTime(events).flatMap(({ at, act }): ClockEvent[] => {
    switch (act.kind) {
      case 'told':
      case 'arrived':
      case 'restored':
      case 'resumed':
      case 'called off':
        return [{ kind: act.kind, at }];
      case 'paused':
        return [{ kind: 'paused', at, reason: act.reason }];
      case 'raised':
      case 'planned':
      case 'sent':
      case 'task':
      case 'form':
      case 'line':
      case 'done':
      case 'alert joined':
      case 'alert ended':
      case 'note':
        return [];
    }
  });
}

/** Which acts the stage offers now, most likely next first; the same rules as `recordEvent`. */
export function actsOffered(facts: OrderFacts, state: OrderState): OrderActKind[] {
  if (!isOpen(state.stage)) return ['note'];
  const offered: OrderActKind[] = [];
  if (state.pausedSince !== null) offered.push('resumed');
  if (state.stage === 'on site')
    offered.push(facts.kind === 'repair' && state.restoredAt === null ? 'restored' : 'done');
  if (state.stage === 'raised') offered.push('planned');
  if (state.stage === 'planned') offered.push('sent');
  if (state.stage !== 'on site' && state.restoredAt === null) offered.push('told', 'arrived');
  if (facts.kind === 'repair' && state.restoredAt === null && state.stage !== 'on site') offered.push('restored');
  if (state.stage !== 'on site' && state.restoredAt !== null) offered.push('done');
  if (state.pausedSince === null && state.restoredAt === null) offered.push('paused');
  offered.push('note', 'called off');
  return offered;
}
