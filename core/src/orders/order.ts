// The life of a work order: which act may follow which, and what the order is after them.
import { decided, refusal, refused, type Decided } from '../refusal.ts';
import { instant, type Instant } from '../time/index.ts';
import {
  isFinished,
  type ChangedAct,
  isToldAlways,
  type OrderAct,
  type OrderActKind,
  type OrderEvent,
  type OrderFacts,
  type OrderStage,
  type OrderState,
  type SignOff,
} from './act.ts';
import { missingFor, refuseMissing, type Missing } from './done-check.ts';
import { takeAnswers, type FormAnswer } from './form.ts';
import {
  doneAtOf,
  doneHereAt,
  heldBefore,
  heldOf,
  leftOf,
  wasOver,
  wasThere,
  type Held,
  type HeldLines,
} from './held.ts';
import { inOwnTime } from './own-time.ts';

const begun: OrderState = {
  stage: 'raised',
  plannedFor: null,
  technicianId: null,
  technician: null,
  pausedSince: null,
  waitingFor: null,
  restoredAt: null,
  restored: new Map(),
  doneAt: null,
  tasks: new Map(),
  forms: new Map(),
  left: new Map(),
  off: new Set(),
  finished: new Map(),
  found: new Map(),
  signed: null,
  handedOn: new Map(),
  handedOnAt: null,
  priority: null,
};

/** Nothing is waited for any more. */
const GOING = { pausedSince: null, waitingFor: null } as const;

const isOpen = (stage: OrderStage): boolean => !isFinished(stage);

function wrong(state: OrderState, what: string, right: string): Decided<OrderState> {
  return refused(refusal('wrong-stage', `The order is ${state.stage}: ${what}. ${right}`, 'kind'));
}

/** When the last machine that is still part of the work was back in use; null while one is not. */
function restoredAtOf(
  { lines }: OrderFacts,
  restored: OrderState['restored'],
  { lines: said, handedOn }: Pick<Held, 'lines' | 'handedOn'>,
): Instant | null {
  const left = leftOf(said);
  const asked = lines.filter(({ id }) => !left.has(id) && !handedOn.has(id));
  const at = (asked.length > 0 ? asked : lines).map(({ id }) => restored.get(id));
  return at.length > 0 && at.every((x) => x !== undefined) ? instant(Math.max(...at)) : null;
}

// What was done at a machine has its own time, which may be later than that of a “done” told late: what counts is when it was recorded.
const ANSWERS: readonly OrderActKind[] = ['task', 'form', 'line', 'line added', 'found', 'changed', 'signed'];
/** What somebody found and did while their phone was out of reach, whatever became of the order. Source: domain-work, Settled questions, Field. */
const KEPT: readonly OrderActKind[] = ['task', 'form', 'found', 'signed'];

/**
 * Another cause may be found once the work is done, until it is settled: who bears it is decided again, the machine and the priority stay.
 * Source: domain-work (excluding a line from cover).
 */
const isCauseFound = ({ stage }: OrderState, act: OrderAct): boolean =>
  stage === 'done' && act.kind === 'changed' && !act.priority && act.lines.every((l) => !l.machine);

/** Whether nothing may happen to the order any more: it was over, as far as this kind of act goes. */
function isTooLate(state: OrderState, event: OrderEvent, events: readonly OrderEvent[]): boolean {
  const { act } = event;
  if ((event.onSite === true && KEPT.includes(act.kind)) || isCauseFound(state, act)) return false;
  return ANSWERS.includes(act.kind) ? wasOver(events, event) : !isOpen(state.stage);
}

/** One step of the order's life; refuses an event that its stage does not allow and says what would be right. */
function step(
  facts: OrderFacts,
  state: OrderState,
  event: OrderEvent,
  events: readonly OrderEvent[],
  also: readonly Missing[],
): Decided<OrderState> {
  const { act, at } = event;
  if (isToldAlways(act)) return decided(state);
  // Planned while nobody here knew yet of the arrival or the end: it changes nothing of them.
  if (PLANNING.includes(act.kind) && !isToCome(state.stage) && !knewOfIt(events, event))
    return decided(
      // It tells at most who it was.
      act.kind === 'planned' && state.technician === null ? { ...state, plannedFor: act.date, ...whoGoes(act) } : state,
    );
  if (act.kind === 'settled' || act.kind === 'unsettled') return settle(state, act.kind);
  if (isTooLate(state, event, events)) {
    const ended: OrderState = isOpen(state.stage) ? { ...state, stage: 'done' } : state;
    return wrong(ended, 'nothing more happens to it', 'Raise a follow-up order instead.');
  }
  switch (act.kind) {
    case 'planned':
      if (state.stage === 'on site')
        return wrong(state, 'it cannot be planned again', 'Finish it, or raise a follow-up.');
      return decided({ ...state, stage: 'planned', plannedFor: act.date, ...whoGoes(act) });
    case 'unplanned':
      if (state.stage !== 'planned' && state.stage !== 'sent')
        return wrong(state, 'it is not planned', 'There is nothing to take back.');
      return decided({ ...state, stage: 'raised', plannedFor: null, technicianId: null, technician: null });
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
      return decided({ ...state, pausedSince: at, waitingFor: act.reason });
    case 'resumed':
      if (state.pausedSince === null) return wrong(state, 'it is not paused', 'There is nothing to resume.');
      return decided({ ...state, ...GOING });
    case 'task':
      if (!facts.tasks.some((t) => t.id === act.taskId))
        return refused(refusal('not-found', 'That task is not on this order.', 'taskId'));
      if (act.outcome === 'left' && act.text.trim() === '')
        return refused(refusal('missing', 'Say why the task is left undone.', 'text'));
      return decided({ ...state, tasks: new Map([...state.tasks, [act.taskId, act.outcome]]) });
    case 'form':
      return fill(facts, state, act.formId, act.answers);
    case 'line':
      return sayOfLine(facts, state, act, heldBefore(events, event));
    case 'found':
      return isLine(facts, act.lineId) ?? decided(state);
    case 'line added':
      return decided(state);
    case 'changed':
      return change(facts, state, act);
    case 'signed':
      return sign(state, act);
    case 'worked around':
      return workAround(facts, state, act);
    case 'restored':
      return restore(facts, state, event, act.lineId ?? null, heldBefore(events, event));
    case 'done':
      return finish(facts, state, at, act.anyway ?? '', heldBefore(events, event), also);
    case 'called off':
      if (act.text.trim() === '') return refused(refusal('missing', 'Say why the order is called off.', 'text'));
      return decided({ ...state, stage: 'called off', ...GOING });
  }
}

/** Refused: of upkeep, of a line that is not there or back in use already, and without saying how it works. */
function workAround(
  facts: OrderFacts,
  state: OrderState,
  { lineId, text }: Extract<OrderAct, { kind: 'worked around' }>,
): Decided<OrderState> {
  if (facts.kind !== 'repair')
    return wrong(state, 'only a repair has a workaround', 'Tell what was done at its lines instead.');
  if (text.trim() === '') return refused(refusal('missing', 'Say how it works for now.', 'text'));
  const lines = facts.lines.filter((l) => l.id === (lineId ?? l.id));
  if (lines.length === 0) return refused(refusal('not-found', 'That line is not on the order.', 'lineId'));
  return lines.every((l) => state.restored.has(l.id))
    ? wrong(state, 'it is back in use already', 'There is nothing to work around.')
    : decided(state);
}

/** Only what is done is settled, and only what was settled is billed again. */
function settle(state: OrderState, kind: 'settled' | 'unsettled'): Decided<OrderState> {
  const [from, to] = kind === 'settled' ? (['done', 'settled'] as const) : (['settled', 'done'] as const);
  return state.stage === from
    ? decided({ ...state, stage: to })
    : wrong(state, `it cannot be ${kind}`, `Only an order that is ${from} is.`);
}

const PLANNING: readonly OrderActKind[] = ['planned', 'unplanned', 'sent'];

const isToCome = (stage: OrderStage): boolean => stage === 'raised' || stage === 'planned' || stage === 'sent';
const ENDS: readonly OrderActKind[] = ['arrived', 'done', 'called off'];

/** Events stand as they were recorded: an arrival or an end that comes late, by its own time the first, stands behind. */
const knewOfIt = (events: readonly OrderEvent[], event: OrderEvent): boolean =>
  events.slice(0, events.indexOf(event)).some(({ act }) => ENDS.includes(act.kind));

/** Acts from before technicians were persons have no id. */
const whoGoes = ({ technicianId, technician }: Extract<OrderAct, { kind: 'planned' | 'told' }>) => ({
  technicianId: technicianId ?? null,
  technician,
});

/** The refusal where a line is not on the order; undefined where it is. */
const isLine = ({ lines }: OrderFacts, lineId: number): Decided<OrderState> | undefined =>
  lines.some((l) => l.id === lineId)
    ? undefined
    : refused(refusal('not-found', 'That machine is not on this order.', 'lineId'));

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

function sayOfLine(
  facts: OrderFacts,
  state: OrderState,
  { lineId, outcome, text }: Extract<OrderAct, { kind: 'line' }>,
  held: Held,
): Decided<OrderState> {
  const unknown = isLine(facts, lineId);
  if (unknown) return unknown;
  if (outcome === 'to do') return decided(state);
  if (outcome === 'done') {
    if (facts.lines.length === 1)
      return refused(refusal('unsupported', 'It is the only one: finish the order itself.', 'lineId'));
    const missing = missingFor(facts, held, lineId);
    return missing.length > 0 ? refused(...refuseMissing(missing)) : decided(state);
  }
  if (text.trim() === '')
    return refused(
      refusal('missing', `Say why the machine is ${outcome === 'off' ? 'taken off' : 'left undone'}.`, 'text'),
    );
  const left = leftOf(held.lines);
  if (facts.lines.every((l) => l.id === lineId || left.has(l.id)))
    return refused(refusal('unsupported', 'Nothing would be done then: call the order off instead.', 'lineId'));
  return decided(state);
}

function change(facts: OrderFacts, state: OrderState, { lines, priority }: ChangedAct): Decided<OrderState> {
  for (const { lineId } of lines) {
    const unknown = isLine(facts, lineId);
    if (unknown) return unknown;
  }
  return decided(priority ? { ...state, priority: priority.to } : state);
}

function restore(
  facts: OrderFacts,
  state: OrderState,
  { at, recordedAt }: OrderEvent,
  lineId: number | null,
  held: Held,
): Decided<OrderState> {
  const unknown = lineId === null ? undefined : isLine(facts, lineId);
  if (unknown) return unknown;
  if (state.restoredAt !== null || (lineId !== null && state.restored.has(lineId)))
    return wrong(state, 'back in use is recorded already', 'Add a note if it failed again.');
  const back = facts.lines.filter((l) => (lineId ?? l.id) === l.id && wasThere(l, recordedAt));
  const restored = new Map([...back.map((l) => [l.id, at] as const), ...state.restored]);
  const restoredAt = restoredAtOf(facts, restored, held);
  return decided({ ...state, restored, restoredAt, ...(restoredAt !== null && GOING) });
}

function sign(state: OrderState, { by, function: as, text }: SignOff): Decided<OrderState> {
  if (state.stage !== 'on site' && state.restored.size === 0)
    return wrong(state, 'there is no work to sign for yet', 'Record “on site” first.');
  if (by.trim() === '' && text.trim() === '')
    return refused(refusal('missing', 'Write who signed for the work, or say why nobody did.', 'by'));
  if (by.trim() !== '' && as.trim() === '')
    return refused(refusal('missing', 'Write as what they signed, such as shift lead.', 'function'));
  return decided(state);
}

function finish(
  facts: OrderFacts,
  state: OrderState,
  at: Instant,
  anyway: string,
  held: Held,
  also: readonly Missing[],
): Decided<OrderState> {
  if (state.stage !== 'on site' && state.restored.size === 0) {
    return wrong(
      state,
      'nobody was on site yet',
      'Record “on site” first, or “back in use” if it was put right from afar.',
    );
  }
  const missing = [...missingFor(facts, held), ...also];
  if (missing.length > 0 && anyway.trim() === '') return refused(...refuseMissing(missing));
  return decided({ ...state, stage: 'done', doneAt: at, ...GOING });
}

const finishedOf = (lines: HeldLines): Map<number, Instant> =>
  new Map([...lines].flatMap(([id, { outcome, at }]) => (outcome === 'done' ? [[id, at] as const] : [])));

/** When each machine was back in use: as it was told, or when the work on it was done, whichever was first. */
const backByNow = ({ lines }: OrderFacts, { restored }: OrderState, held: Held, doneAt: Instant | null) =>
  new Map(
    lines.flatMap(({ id }) => {
      const at = [restored.get(id), doneHereAt(held, doneAt, id)].filter((x) => x !== undefined && x !== null);
      return at.length === 0 ? [] : [[id, instant(Math.min(...at))] as const];
    }),
  );

function stateAfter(
  facts: OrderFacts,
  events: readonly OrderEvent[],
  alsoMissing: (event: OrderEvent) => readonly Missing[],
): Decided<OrderState> {
  let state = begun;
  for (const event of inOwnTime(events)) {
    const next = step(facts, state, event, events, alsoMissing(event));
    if (!next.ok) return next;
    state = next.value;
  }
  const held = heldOf(events);
  const { found, handedOn, signed } = held;
  const restored = facts.kind === 'repair' ? backByNow(facts, state, held, doneAtOf(events)) : state.restored;
  return decided({
    ...state,
    restored,
    restoredAt: restoredAtOf(facts, restored, held),
    left: leftOf(held.lines),
    off: new Set([...held.lines].flatMap(([id, { outcome }]) => (outcome === 'off' ? [id] : []))),
    finished: finishedOf(held.lines),
    ...{ found, handedOn, signed },
    handedOnAt: events.findLast(({ act }) => act.kind === 'followed up' && act.takesPromise)?.at ?? null,
  });
}

/** The order's state after all its events, given as they were recorded; refuses the first event that could not have happened. */
export const stateOfOrder = (facts: OrderFacts, events: readonly OrderEvent[]): Decided<OrderState> =>
  stateAfter(facts, events, () => []);

/** What is missing before the order is done, as its events say. */
export function missingOf(facts: OrderFacts, events: readonly OrderEvent[]): Missing[] {
  return missingFor(facts, heldOf(events));
}

/** A device's clock may run ahead of the server's by this much. */
const CLOCK_TOLERANCE_MS = 2 * 60_000;

/**
 * Decides whether an event may be added and gives the state after it. Refused: a time in the future or before the order's
 * start, and any event that the whole sequence, taken by own times, does not allow. `also`: what is missing for its end that other
 * rooms know of.
 */
export function recordEvent(
  facts: OrderFacts,
  events: readonly OrderEvent[],
  event: OrderEvent,
  also: readonly Missing[] = [],
): Decided<OrderState> {
  if (event.at > event.recordedAt + CLOCK_TOLERANCE_MS) {
    return refused(refusal('in-the-future', 'That time has not come yet; give the time at which it happened.', 'at'));
  }
  if (event.at < facts.startedAt) {
    return refused(
      refusal('out-of-order', 'That is before the order began; give a time after the call or alert.', 'at'),
    );
  }
  return stateAfter(facts, [...events, event], (one) => (one === event ? also : []));
}

/** Which acts the stage offers now, most likely next first; the same rules as `recordEvent`. */
export function actsOffered(facts: OrderFacts, state: OrderState): OrderActKind[] {
  if (!isOpen(state.stage)) return ['note'];
  // Of a repair that goes on with another order nothing comes back into use here.
  const isBack = state.restoredAt !== null || facts.lines.every(({ id }) => state.handedOn.has(id));
  const offered: OrderActKind[] = [];
  if (state.pausedSince !== null) offered.push('resumed');
  if (state.stage === 'on site' && facts.kind === 'repair' && !isBack) offered.push('restored');
  if (state.stage === 'on site') offered.push('done');
  if (state.stage === 'raised') offered.push('planned');
  if (state.stage === 'planned') offered.push('sent');
  if (state.stage !== 'on site' && !isBack) offered.push('told', 'arrived');
  if (facts.kind === 'repair' && !isBack && state.stage !== 'on site') offered.push('restored');
  if (state.stage !== 'on site' && isBack && state.restored.size > 0) offered.push('done');
  if (facts.kind === 'repair' && !isBack) offered.push('worked around');
  if (state.pausedSince === null && !isBack) offered.push('paused');
  if (state.signed === null && (state.stage === 'on site' || state.restored.size > 0)) offered.push('signed');
  offered.push('note', 'called off');
  return offered;
}
