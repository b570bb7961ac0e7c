// What can happen to a work order: kinds, stages, the acts that move it, and what it is made of.
import type { OrderId, PersonId } from '../ids.ts';
import type { PauseReason, Priority } from '../service-levels/index.ts';
import type { Instant, LocalDate } from '../time/index.ts';
import type { FormAnswer, OrderForm } from './form.ts';

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

export const LINE_OUTCOMES = ['done', 'left', 'off', 'to do'] as const;
export type LineOutcome = (typeof LINE_OUTCOMES)[number];

/** What was the matter with a machine, in the words of its class; null: not said. */
export const FINDINGS = ['symptom', 'fault', 'cause', 'remedy'] as const;
export type Finding = (typeof FINDINGS)[number];
export type Findings = Readonly<Record<Finding, string | null>>;

/** A decision as it is said: who bears it, and by when we promised to be there. */
export type Said = { readonly sentence: string; readonly promise: string };

/** Who signs for the work, with their function; an empty name: nobody, and `text` says why. */
export type SignOff = { readonly by: string; readonly function: string; readonly text: string };

/** Priority, a line's machine or its cause turned out to be another: decided again as of the start, the decision before is kept. */
export type ChangedAct = {
  readonly kind: 'changed';
  readonly text: string;
  readonly priority?: { readonly from: Priority; readonly to: Priority };
  readonly lines: readonly {
    readonly lineId: number;
    /** Machines by their tags; null: the place itself. */
    readonly machine?: { readonly from: string | null; readonly to: string | null };
    readonly cause?: { readonly from: string; readonly to: string };
    readonly before: Said;
    readonly after: Said;
  }[];
};

/** Nobody outside is told by the act itself: the rota tells them by the day. */
type Quiet = { readonly quiet?: true };

/** Who goes is a person of ours, with the name they had then; without an id somebody from outside, known by name only. */
export type OrderAct =
  | { readonly kind: 'raised'; readonly text: string }
  | ({
      readonly kind: 'planned';
      readonly technicianId?: PersonId | null;
      readonly technician: string;
      readonly date: LocalDate;
      /** From when until when, and with whom. */
      readonly text?: string;
    } & Quiet)
  /** No appointment is left: it is to be planned anew. */
  | { readonly kind: 'unplanned'; readonly text: string }
  | ({ readonly kind: 'sent' } & Quiet)
  | { readonly kind: 'told'; readonly technicianId?: PersonId | null; readonly technician: string }
  | { readonly kind: 'arrived' }
  | { readonly kind: 'paused'; readonly reason: PauseReason; readonly text: string }
  | { readonly kind: 'resumed' }
  | { readonly kind: 'task'; readonly taskId: number; readonly outcome: 'done' | 'left'; readonly text: string }
  /** One of several lines is finished by itself, left undone, taken off the order, or is to be done after all. */
  | { readonly kind: 'line'; readonly lineId: number; readonly outcome: LineOutcome; readonly text: string }
  | { readonly kind: 'line added'; readonly lineId: number; readonly text: string }
  | ({ readonly kind: 'found'; readonly lineId: number } & Findings)
  | ChangedAct
  /** What was left undone goes on with another order; with it the promise of back in use, where it was not kept yet. */
  | {
      readonly kind: 'followed up';
      readonly orderId: OrderId;
      readonly lineIds: readonly number[];
      readonly takesPromise: boolean;
      readonly text: string;
    }
  | { readonly kind: 'form'; readonly formId: number; readonly answers: readonly FormAnswer[] }
  /** The customer’s sign-off of the work: by whom and as what they sign, or `text`: why nobody does. Said again, the last holds. */
  | ({ readonly kind: 'signed' } & SignOff)
  /** Of one line, or of every line that is not yet. */
  | { readonly kind: 'restored'; readonly lineId?: number | null }
  /** It works for now, of one line or of every line, and how; what is to be restored stays open. */
  | { readonly kind: 'worked around'; readonly lineId?: number | null; readonly text: string }
  /** `anyway`: why it is finished although something is missing; a manager's word. */
  | { readonly kind: 'done'; readonly text: string; readonly effort?: Effort; readonly anyway?: string }
  | { readonly kind: 'called off'; readonly text: string }
  /** Nothing is left to bill of it; or something is again, after it was credited. */
  | { readonly kind: 'settled' | 'unsettled'; readonly text: string }
  | { readonly kind: 'alert joined' | 'alert ended'; readonly alertId: number; readonly text: string }
  /** An act of before had another time, or with null never happened. */
  | {
      readonly kind: 'corrected';
      readonly eventId: number;
      readonly of: string;
      readonly was: Instant;
      readonly to: Instant | null;
      readonly text: string;
    }
  /** Another of the house sees to it from now on. */
  | { readonly kind: 'handed over'; readonly personId: PersonId; readonly person: string; readonly text: string }
  /** `exception`: what somebody decided against with it. */
  | { readonly kind: 'note'; readonly text: string; readonly exception?: 'over terms' };

export type OrderActKind = OrderAct['kind'];

/** What is told of an order at any time, and moves nothing of it. */
const ALWAYS = [
  ...(['note', 'corrected', 'handed over', 'alert joined', 'alert ended', 'raised', 'followed up'] as const),
] as const satisfies readonly OrderActKind[];
export const isToldAlways = (act: OrderAct): act is Extract<OrderAct, { kind: (typeof ALWAYS)[number] }> =>
  (ALWAYS as readonly OrderActKind[]).includes(act.kind);

/** An act with its own time; events recorded later (a phone was offline) keep both times. */
export type OrderEvent = {
  readonly at: Instant;
  readonly recordedAt: Instant;
  readonly act: OrderAct;
  /** Told by the phone of somebody who stood there: what they found is kept, even of an order that was over by then. */
  readonly onSite?: boolean;
};

export type OrderState = {
  readonly stage: OrderStage;
  readonly plannedFor: LocalDate | null;
  /** The person of ours who goes, and the name they were planned or told by; a name alone is somebody from outside. */
  readonly technicianId: PersonId | null;
  readonly technician: string | null;
  readonly pausedSince: Instant | null;
  /** What it waits for, while it is paused. */
  readonly waitingFor: PauseReason | null;
  /** When the last of its machines was back in use; null while one is not. */
  readonly restoredAt: Instant | null;
  readonly restored: ReadonlyMap<number, Instant>;
  readonly doneAt: Instant | null;
  /** Tasks settled so far: ticked, or left with a reason. */
  readonly tasks: ReadonlyMap<number, 'done' | 'left'>;
  /** Answers of the forms filled so far; filled again, the last answers hold. */
  readonly forms: ReadonlyMap<number, readonly FormAnswer[]>;
  /** Lines left undone or taken off, each with the reason. */
  readonly left: ReadonlyMap<number, string>;
  /** Those of them that are no part of the order any more. */
  readonly off: ReadonlySet<number>;
  /** Lines finished by themselves, and when. */
  readonly finished: ReadonlyMap<number, Instant>;
  readonly found: ReadonlyMap<number, Findings>;
  readonly signed: SignOff | null;
  /** Lines whose open promise goes on with another order. */
  readonly handedOn: ReadonlyMap<number, OrderId>;
  /** When the promise of back in use went on with another order. */
  readonly handedOnAt: Instant | null;
  /** Null: as it was raised. */
  readonly priority: Priority | null;
};

/** A machine, or a place where none is known yet. */
export type OrderLineFacts = {
  readonly id: number;
  /** When it was added to an order that was there before; its own promises run from then. */
  readonly since?: Instant | null;
  /** Its class names causes and remedies: a repair is not done before they are said. */
  readonly asksFindings?: boolean;
  /** How it is called where something of it is missing. */
  readonly name?: string;
};

export type OrderFacts = {
  readonly kind: OrderKind;
  /** When the call was received, the alert became active or the visit was raised: no event lies before it. */
  readonly startedAt: Instant;
  readonly lines: readonly OrderLineFacts[];
  readonly tasks: readonly (OfLine & { readonly id: number; readonly text: string; readonly mandatory: boolean })[];
  readonly forms: readonly (OfLine & OrderForm)[];
};
export type OfLine = { readonly lineId: number };
