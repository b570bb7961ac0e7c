// An upkeep run: which visits it looks at, what speaks against raising one, and what a person decided.
import type { AgreementId, CustomerId, DepotId, LocationId, ScheduleId } from '../ids.ts';
import type { Role } from '../people.ts';
import { decided, refusal, refused, type Decided } from '../refusal.ts';
import { sayDate, type LocalDate } from '../time/index.ts';

/** A visit: still to come and decided on, or raised and what became of it. */
export const VISIT_STATES = ['held', 'accepted', 'raised', 'declined', 'absorbed', 'called off'] as const;
export type VisitState = (typeof VISIT_STATES)[number];

export type VisitKey = { readonly scheduleId: ScheduleId; readonly nominal: LocalDate; readonly part: number };

/** What a run looks at; nothing said: everything. */
export type RunScope = {
  readonly customerId?: CustomerId;
  readonly agreementId?: AgreementId;
  /** The place and everything below it. */
  readonly locationId?: LocationId;
  readonly depotId?: DepotId;
  /** Visits planned for this month, as 2026-12. */
  readonly month?: string;
};

/** A visit a run left alone, and why. */
export type RunLeft = VisitKey & { readonly tag: string; readonly jobPlan: string; readonly reason: string };

export const EXCEPTION_LEVELS = ['stops', 'asks', 'tells'] as const;
/** `stops`: a manager may let it go on, with a reason. `asks`: somebody decides. `tells`: it is shown, and raised. */
export type ExceptionLevel = (typeof EXCEPTION_LEVELS)[number];

/** What can speak against raising a visit, with what it means unless the house says otherwise. */
export const EXCEPTIONS = {
  'no minutes': 'stops',
  'over terms': 'asks',
  'window over': 'tells',
  'agreement ends': 'asks',
  'needs yes': 'asks',
  'no skill': 'asks',
  'window closed': 'asks',
  'day closed': 'tells',
  'due passed': 'tells',
  'open order': 'tells',
  'out of service': 'tells',
  'beyond right': 'tells',
} as const satisfies Record<string, ExceptionLevel>;
export type ExceptionCode = keyof typeof EXCEPTIONS;
export const EXCEPTION_CODES = Object.keys(EXCEPTIONS) as ExceptionCode[];

export type ExceptionLevels = Readonly<Record<ExceptionCode, ExceptionLevel>>;
export const levelsWith = (
  settings: readonly { exception: ExceptionCode; level: ExceptionLevel }[],
): ExceptionLevels => ({
  ...EXCEPTIONS,
  ...Object.fromEntries(settings.map((s) => [s.exception, s.level])),
});

/** An exception in a few words, as a setting names it. */
export const NAME_OF_EXCEPTION: Readonly<Record<ExceptionCode, string>> = {
  'no minutes': 'The visit would take no time',
  'over terms': 'The customer is over their credit terms',
  'window over': 'Its window is over already',
  'agreement ends': 'The agreement ends before it is due',
  'needs yes': 'It needs the customer’s yes',
  'no skill': 'Nobody of the depot has the skill',
  'window closed': 'The place is closed in its whole window',
  'day closed': 'The day that was chosen is a closed day',
  'due passed': 'Its due date has passed',
  'open order': 'Another order is open for the machine',
  'out of service': 'The machine is out of service',
  'beyond right': 'It lies beyond what is counted',
};

export type VisitFacts = {
  readonly minutes: number;
  readonly due: LocalDate;
  readonly windowTo: LocalDate;
  readonly closed: 'day' | 'window' | null;
  readonly overSince: LocalDate | null;
  readonly termTo: LocalDate | null;
  readonly needsYes: boolean;
  /** The skill that nobody has who would go. */
  readonly lacking: string | null;
  readonly openOrderId: number | null;
  readonly assetState: string;
  /** "6th of 5: chargeable". */
  readonly beyond: string | null;
};

export type Exception = { readonly code: ExceptionCode; readonly level: ExceptionLevel; readonly text: string };

/** What each exception says of a visit; null where it does not hold. A window is over the day after its end, judged by today. */
const SAYS: Readonly<Record<ExceptionCode, (facts: VisitFacts, today: LocalDate) => string | null>> = {
  'no minutes': ({ minutes }) => (minutes <= 0 ? 'it would take no time; give it a duration' : null),
  'over terms': ({ overSince }) => overSince && `the customer is over their credit terms since ${sayDate(overSince)}`,
  'window over': ({ windowTo }, today) => (windowTo < today ? `its window is over since ${sayDate(windowTo)}` : null),
  'agreement ends': ({ termTo, due }) =>
    termTo !== null && termTo < due ? `the agreement ends on ${sayDate(termTo)}, before it is due` : null,
  'needs yes': ({ needsYes }) => (needsYes ? 'it needs the customer’s yes first' : null),
  'no skill': ({ lacking }) => lacking && `nobody of the depot has the skill ${lacking}`,
  'window closed': ({ closed }) => (closed === 'window' ? 'the place is closed in its whole window' : null),
  'day closed': ({ closed }) => (closed === 'day' ? 'the day that was chosen is a closed day' : null),
  'due passed': ({ due, windowTo }, today) => (due < today && windowTo >= today ? 'its due date has passed' : null),
  'open order': ({ openOrderId }) => (openOrderId === null ? null : 'another order is open for the machine'),
  'out of service': ({ assetState }) => (assetState === 'out of service' ? 'the machine is out of service' : null),
  'beyond right': ({ beyond }) => beyond,
};

/** What speaks against raising a visit, the strictest first. */
export function exceptionsOf(facts: VisitFacts, today: LocalDate, levels: ExceptionLevels): Exception[] {
  return EXCEPTION_CODES.flatMap((code): Exception[] => {
    const text = SAYS[code](facts, today);
    return text === null ? [] : [{ code, level: levels[code], text }];
  }).sort((a, b) => EXCEPTION_LEVELS.indexOf(a.level) - EXCEPTION_LEVELS.indexOf(b.level));
}

export type Decision =
  | { readonly kind: 'held'; readonly reason: string; readonly until: LocalDate | null }
  | { readonly kind: 'declined'; readonly reason: string }
  | { readonly kind: 'accepted'; readonly reason: string };

/** Who may let a visit go on in spite of what stops it. */
const OVERRIDES: readonly Role[] = ['manager', 'administrator'];

/**
 * Whether a person may decide so on a visit. Refused: letting go on what a setting stops, unless by a manager with a reason;
 * holding until a day that is not ahead.
 */
export function checkDecision(
  decision: Decision,
  exceptions: readonly Exception[],
  who: { readonly role: Role },
  today: LocalDate,
): Decided<Decision> {
  if (decision.kind === 'held' && decision.until !== null && decision.until <= today)
    return refused(refusal('invalid', `Hold it until a day after today, ${sayDate(today)}.`, 'until'));
  if (decision.kind !== 'accepted') return decided(decision);
  const stop = exceptions.find((e) => e.level === 'stops');
  if (!stop) return decided(decision);
  if (!OVERRIDES.includes(who.role))
    return refused(refusal('not-allowed', `Stopped: ${stop.text}. A manager may let it go on, with a reason.`));
  if (decision.reason.trim() === '')
    return refused(refusal('missing', `Say why it goes on although ${stop.text}.`, 'reason'));
  return decided(decision);
}

export type OpenState = {
  readonly state: 'held' | 'accepted' | null;
  readonly until: LocalDate | null;
};

/** What a proposal waits for: nothing, a person's decision, or the day until which it is held. */
export function standingOfProposal(
  { state, until }: OpenState,
  exceptions: readonly Exception[],
  today: LocalDate,
): 'ready' | 'to decide' | 'held' {
  if (state === 'held' && (until === null || until > today)) return 'held';
  if (state === 'accepted') return 'ready';
  return exceptions.some((e) => e.level !== 'tells') ? 'to decide' : 'ready';
}
