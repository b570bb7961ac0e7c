// The review of an agreement: which machines trouble it, and what its figures speak for, each with the figures that say so.
import type { MissCause } from './miss-cause.ts';
import { daysBetween, sayDate, type LocalDate } from '../time/index.ts';

/** A machine over the period of a review. Money in minor units of the agreement's currency; null: not known to who asks. */
export type ReviewedMachine = {
  readonly id: number;
  readonly tag: string;
  readonly model: string;
  readonly commissioned: LocalDate | null;
  /** Times it was down, and how often so within thirty days after it had been up again. */
  readonly failures: number;
  readonly repeats: number;
  readonly downMinutes: number;
  readonly cost: number | null;
  /** An even share of the fees. */
  readonly earned: number | null;
};

export type ReviewFacts = {
  readonly today: LocalDate;
  /** Its last day, by which notice is given, and whether it goes on by itself; null: it has no end. */
  readonly termTo: LocalDate | null;
  readonly noticeBy: LocalDate | null;
  readonly renewsItself: boolean;
  /** Shares of 0 to 1; null: nothing fell due. */
  readonly attainment: number | null;
  readonly compliance: number | null;
  /** What is agreed of either; null: nothing is. */
  readonly attainmentAgreed: number | null;
  readonly complianceAgreed: number | null;
  readonly misses: readonly { readonly cause: MissCause | null; readonly missed: number }[];
  /** Fees and cost of the period; null: not known to who asks. */
  readonly earned: number | null;
  readonly cost: number | null;
  readonly machines: readonly ReviewedMachine[];
};

export const PROPOSALS = ['renew', 'reprice', 'prevent misses', 'keep windows', 'retire', 'more upkeep'] as const;
export type ProposalKind = (typeof PROPOSALS)[number];
export type Proposal = {
  readonly kind: ProposalKind;
  /** The machine it is about; null: the agreement. */
  readonly machineId: number | null;
  readonly because: string;
};

/** A renewal is spoken of so long before the end. */
export const RENEWAL_DAYS = 180;
/** Less of the fees than that is left: it is priced anew. */
export const LEAST_MARGIN = 0.1;
const OLD_YEARS = 10;
const DEAR_TIMES = 3;
const COMPLIANCE_USUAL = 0.95;

const percent = (share: number): string => `${(Math.floor(share * 1000) / 10).toString()} %`;
const times = (n: number): string => (n === 1 ? 'once' : n === 2 ? 'twice' : `${n} times`);

/** Whether a machine troubles: it failed more than once or soon again, or once and cost more than its share of the fees. */
export const isInTrouble = ({ failures, repeats, cost, earned }: ReviewedMachine): boolean =>
  failures > 1 || repeats > 0 || (failures > 0 && cost !== null && earned !== null && cost > earned);

/** Whole years. */
const yearsBetween = (from: LocalDate, to: LocalDate): number =>
  Number(to.slice(0, 4)) - Number(from.slice(0, 4)) - (to.slice(5) < from.slice(5) ? 1 : 0);

function ofMachine(machine: ReviewedMachine, today: LocalDate): Proposal | null {
  const { id, failures, repeats, commissioned, cost, earned } = machine;
  const years = commissioned === null ? null : yearsBetween(commissioned, today);
  const isOld = years !== null && years >= OLD_YEARS;
  const isDear = cost !== null && earned !== null && earned > 0 && cost >= DEAR_TIMES * earned;
  const said = [
    `it was down ${times(failures)}`,
    ...(repeats > 0
      ? [
          `${repeats < failures ? `${times(repeats)} ` : failures > 1 ? 'each ' : ''}within thirty days after it was mended`,
        ]
      : []),
    ...(isOld ? [`is ${years} years old`] : []),
    ...(isDear ? [`took ${(cost / earned).toFixed(1)} times its share of the fees`] : []),
  ].join(', ');
  if (failures >= 2 && (isOld || isDear)) return { kind: 'retire', machineId: id, because: said };
  if (failures >= 3 || repeats > 0) return { kind: 'more upkeep', machineId: id, because: said };
  return null;
}

function ofTerm(facts: ReviewFacts): Proposal | null {
  const { today, termTo, noticeBy, renewsItself, earned, cost } = facts;
  const isThin = earned !== null && cost !== null && cost > earned * (1 - LEAST_MARGIN);
  const figures =
    earned === null || cost === null || earned <= 0
      ? ''
      : `${cost > earned ? 'it cost' : 'it took'} ${percent(cost / earned)} of its fees`;
  const daysLeft = termTo === null ? null : daysBetween(today, termTo);
  const ends =
    termTo !== null && daysLeft !== null && daysLeft <= RENEWAL_DAYS
      ? daysLeft < 0
        ? `it ended on ${sayDate(termTo)}`
        : `${renewsItself ? 'it goes on by itself after' : 'it ends on'} ${sayDate(termTo)}${
            noticeBy !== null && noticeBy >= today ? `, notice by ${sayDate(noticeBy)}` : ''
          }`
      : null;
  const because = [ends, figures].filter((x) => x).join('; ');
  if (isThin) return { kind: 'reprice', machineId: null, because };
  return ends === null ? null : { kind: 'renew', machineId: null, because };
}

function ofPromises({ attainment, attainmentAgreed, misses, compliance, complianceAgreed }: ReviewFacts): Proposal[] {
  const found: Proposal[] = [];
  const byCause = new Map<MissCause | null, number>();
  for (const { cause, missed } of misses) byCause.set(cause, (byCause.get(cause) ?? 0) + missed);
  const [worst] = [...byCause].filter(([, missed]) => missed > 0).toSorted((a, b) => b[1] - a[1]);
  const all = misses.reduce((n, m) => n + m.missed, 0);
  if (worst && attainment !== null && attainmentAgreed !== null && attainment < attainmentAgreed)
    found.push({
      ...{ kind: 'prevent misses', machineId: null },
      because: `${percent(attainment)} of the promises were kept, ${percent(attainmentAgreed)} are agreed; ${
        worst[1]
      } of ${all} missed: ${worst[0] ?? 'still open'}`,
    });
  const owed = complianceAgreed ?? COMPLIANCE_USUAL;
  if (compliance !== null && compliance < owed)
    found.push({
      ...{ kind: 'keep windows', machineId: null },
      because: `${percent(compliance)} of the visits were done in their windows, ${percent(owed)} are ${
        complianceAgreed === null ? 'usual' : 'agreed'
      }`,
    });
  return found;
}

/**
 * What the figures of an agreement speak for, in the order of `PROPOSALS`: to renew it where its end is at most 180 days away, to price it
 * anew where less than a tenth of its fees is left, to work on what misses came from where fewer promises were kept than agreed, to keep
 * windows where fewer visits than agreed (or 95 %) lay in them; a machine to be retired that was down at least twice and is ten years old
 * or took three times its share of the fees, more upkeep for one that was down three times or again within thirty days. Proposals, not
 * decisions: each says why. Without money known none rests on it. Source: issue of Standing (review pack).
 */
export function proposalsFor(facts: ReviewFacts): Proposal[] {
  const term = ofTerm(facts);
  const machines = facts.machines.flatMap((m) => ofMachine(m, facts.today) ?? []);
  const all = [...(term ? [term] : []), ...ofPromises(facts), ...machines];
  return all.toSorted((a, b) => PROPOSALS.indexOf(a.kind) - PROPOSALS.indexOf(b.kind));
}
