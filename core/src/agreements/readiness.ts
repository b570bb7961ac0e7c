// Agreements: what must hold before an agreement is put in force.
import type { AgreementStage, Term } from '../entitlement/index.ts';
import { decided, refusal, refused, type Decided } from '../refusal.ts';
import { parseLocalDate, sayDate, sayDay } from '../time/index.ts';
import { firstDateFrom, type Cadence } from '../upkeep/index.ts';

export type AgreementDraft = {
  /** What else a contract says; without it the agreement can hold all the same. */
  readonly terms: {
    readonly priced: boolean;
    readonly billing: string;
    readonly contacts: number;
    readonly managed: boolean;
    readonly noticeDays: number;
    readonly renewal: string;
  };
  readonly stage: AgreementStage;
  readonly term: Term;
  readonly lines: readonly {
    readonly label: string;
    readonly assetsReached: number;
    readonly assetsWithoutZone: number;
    readonly coversRepair: boolean;
    readonly promises: number | null;
    readonly term: Term;
  }[];
  readonly schedules: readonly {
    readonly label: string;
    readonly minutes: number;
    readonly cadence: Cadence;
    readonly workingDayEver: boolean;
  }[];
};

/** The headings a maintenance contract is read by. Source: EN 13269, preparation of maintenance contracts (from memory). */
export const CONTRACT_HEADINGS = [
  'Scope of work',
  'Technical provisions',
  'Commercial provisions',
  'Organisational provisions',
  'Legal provisions',
] as const;
export type ContractHeading = (typeof CONTRACT_HEADINGS)[number];

export type ChecklistItem = {
  readonly heading: ContractHeading;
  readonly subject: string;
  readonly satisfied: boolean;
  /** Whether it keeps the agreement from being in force while it is not satisfied. */
  readonly blocks: boolean;
  readonly text: string;
};

const HEADING_OF: Readonly<Record<string, ContractHeading>> = {
  Coverage: 'Scope of work',
  Places: 'Scope of work',
  'Service level': 'Technical provisions',
  Upkeep: 'Technical provisions',
  Calendar: 'Technical provisions',
  Term: 'Legal provisions',
};

const item = (subject: string, satisfied: boolean, good: string, bad: string): ChecklistItem => ({
  heading: HEADING_OF[subject] ?? 'Legal provisions',
  subject,
  satisfied,
  blocks: true,
  text: satisfied ? good : bad,
});
/** Worth saying, though an agreement can hold without it. */
const advice = (
  heading: ContractHeading,
  subject: string,
  satisfied: boolean,
  good: string,
  bad: string,
): ChecklistItem => ({ heading, subject, satisfied, blocks: false, text: satisfied ? good : bad });

function adviceItems({ terms }: AgreementDraft): ChecklistItem[] {
  return [
    advice(
      'Commercial provisions',
      'Price',
      terms.priced,
      'A price is agreed.',
      'No price is agreed, neither for the whole nor for a line.',
    ),
    advice('Commercial provisions', 'Billing', true, `Billed ${terms.billing}.`, ''),
    advice(
      'Organisational provisions',
      'Contacts',
      terms.contacts > 0,
      `${terms.contacts} of the customer’s contacts are named.`,
      'No contact of the customer is named.',
    ),
    advice(
      'Organisational provisions',
      'Account manager',
      terms.managed,
      'An account manager is named.',
      'Nobody is named to look after it.',
    ),
    advice(
      'Legal provisions',
      'Notice',
      terms.noticeDays > 0,
      `Notice is given ${terms.noticeDays} days before the end.`,
      'No notice period is agreed.',
    ),
    advice('Legal provisions', 'End of the term', true, `At the end of the term it ${terms.renewal}.`, ''),
  ];
}

function coverageItems(draft: AgreementDraft): ChecklistItem[] {
  if (draft.lines.length === 0)
    return [item('Coverage', false, '', 'There is no coverage line; say which assets the agreement covers.')];
  return draft.lines.flatMap((line) => [
    item(
      'Coverage',
      line.assetsReached > 0,
      `${line.label} reaches ${line.assetsReached} assets.`,
      `${line.label} reaches no asset; choose assets or a location that holds some.`,
    ),
    item(
      'Places',
      line.assetsWithoutZone === 0,
      `Every place of ${line.label} has a time zone.`,
      `${line.assetsWithoutZone} assets of ${line.label} stand at a place without a time zone; give one to the place or above it.`,
    ),
    ...(line.coversRepair
      ? [
          item(
            'Service level',
            (line.promises ?? 0) > 0,
            `${line.label} promises ${line.promises} targets.`,
            line.promises === null
              ? `${line.label} covers repairs but names no service level; choose one.`
              : `The service level of ${line.label} sets no target; give it one.`,
          ),
        ]
      : []),
    item(
      'Term',
      (draft.term.to === null || line.term.from <= draft.term.to) &&
        (line.term.to === null || line.term.to >= draft.term.from),
      `${line.label} lies inside the term.`,
      `${line.label} lies outside the agreement’s term; change its dates.`,
    ),
  ]);
}

function upkeepItems(draft: AgreementDraft): ChecklistItem[] {
  return draft.schedules.flatMap((schedule) => {
    const first = firstDateFrom(schedule.cadence, draft.term.from);
    // Counted by a meter alone: its date follows from readings.
    const fires =
      first === null ? schedule.cadence.kind === 'since service' : draft.term.to === null || first <= draft.term.to;
    return [
      item(
        'Upkeep',
        schedule.minutes > 0,
        `${schedule.label} takes ${schedule.minutes} minutes.`,
        `${schedule.label} has a duration of zero; it would never be raised.`,
      ),
      item(
        'Upkeep',
        fires,
        first === null
          ? `${schedule.label} is due when its meter says so.`
          : `${schedule.label} is first due around ${sayDate(first)}.`,
        `${schedule.label} has no date inside the term; change its rule or start.`,
      ),
      item(
        'Calendar',
        schedule.workingDayEver,
        `${schedule.label} finds working days.`,
        `${schedule.label} uses a calendar that never opens; correct the calendar.`,
      ),
    ];
  });
}

/** Every point that putting an agreement in force looks at, satisfied or with what would be right. Headings follow EN 13269. */
export function readinessOf(draft: AgreementDraft): ChecklistItem[] {
  return [
    item(
      'Term',
      draft.term.to === null || draft.term.to >= draft.term.from,
      `Runs from ${sayDay(draft.term.from)}${draft.term.to ? ` to ${sayDay(draft.term.to)}` : ', open-ended'}.`,
      'The term ends before it starts.',
    ),
    ...coverageItems(draft),
    ...upkeepItems(draft),
    ...adviceItems(draft),
  ];
}

/** Decides whether a draft may be put in force: refused with every unsatisfied point. */
export function putInForce(draft: AgreementDraft): Decided<'in force'> {
  if (draft.stage !== 'draft')
    return refused(refusal('wrong-stage', `The agreement is ${draft.stage}; only a draft is put in force.`));
  const open = readinessOf(draft).filter((i) => i.blocks && !i.satisfied);
  return open.length === 0 ? decided('in force') : refused(...open.map((i) => refusal('not-ready', i.text, i.subject)));
}

/** Reads a typed term; both days belong to it. Refused: impossible dates, an end before the start. */
export function readTerm(from: string, to: string | null): Decided<Term> {
  const start = parseLocalDate(from);
  const end = to === null || to === '' ? null : parseLocalDate(to);
  if (!start) return refused(refusal('invalid', `“${from}” is not a date; write it as 2026-03-17.`, 'from'));
  if (to !== null && to !== '' && !end)
    return refused(refusal('invalid', `“${to}” is not a date; write it as 2027-03-16.`, 'to'));
  if (end !== null && end < start)
    return refused(
      refusal(
        'invalid',
        `The term ends (${sayDay(end)}) before it starts (${sayDay(start)}); give an end on or after the start.`,
        'to',
      ),
    );
  return decided({ from: start, to: end });
}
