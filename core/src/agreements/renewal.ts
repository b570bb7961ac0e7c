// Renewal: when notice is due, what happens when nobody decides, and the term that follows.
import type { AgreementStage, Term } from '../entitlement/index.ts';
import { addDays, addMonths, daysBetween, sayDay, type LocalDate } from '../time/index.ts';

export const RENEWAL_MODES = ['renews by itself', 'ends', 'to be renegotiated'] as const;
export type RenewalMode = (typeof RENEWAL_MODES)[number];

export type RenewalFacts = {
  readonly stage: AgreementStage;
  readonly term: Term;
  readonly noticeDays: number;
  readonly mode: RenewalMode;
  /** How long it renews for. */
  readonly months: number;
  /** What was decided about the end of this term; null while nothing is. */
  readonly decision: 'accepted' | 'declined' | null;
};

/** The last day on which notice can be given; the last day of the term without a notice period; null for an open end. */
export function noticeDate(to: LocalDate | null, noticeDays: number): LocalDate | null {
  return to === null ? null : addDays(to, -noticeDays);
}

/** The term after renewing: it goes on from the day after its last, for whole months. */
export function renewedTerm(term: Term, months: number): Term {
  return term.to === null ? term : { from: term.from, to: addDays(addMonths(addDays(term.to, 1), months), -1) };
}

/**
 * What the day brings without anybody's act: an agreement that renews by itself does so once its notice date has passed and
 * nobody declined; any other ends after the last day of its term. Null when nothing happens.
 */
export function dueByItself(facts: RenewalFacts, today: LocalDate): 'renew' | 'end' | null {
  const { stage, term, mode, decision, months } = facts;
  if ((stage !== 'in force' && stage !== 'suspended') || term.to === null) return null;
  const notice = noticeDate(term.to, facts.noticeDays) as LocalDate;
  if (mode === 'renews by itself' && decision !== 'declined' && stage === 'in force' && months > 0 && today > notice)
    return 'renew';
  return today > term.to ? 'end' : null;
}

/** The account manager hears this many days before the notice date that an agreement is about to renew by itself. */
export const TOLD_DAYS_AHEAD = 30;

/** Whether the account manager is to be told on a day: before the notice date, while it would still renew by itself. */
export function managerIsTold(facts: RenewalFacts, today: LocalDate): boolean {
  const notice = noticeDate(facts.term.to, facts.noticeDays);
  if (notice === null || facts.mode !== 'renews by itself' || facts.stage !== 'in force') return false;
  return facts.decision === null && today <= notice && daysBetween(today, notice) <= TOLD_DAYS_AHEAD;
}

/** Where a renewal stands, in words. */
export function sayRenewal(facts: RenewalFacts, today: LocalDate): string {
  const { term, mode, months, decision } = facts;
  const notice = noticeDate(term.to, facts.noticeDays);
  if (term.to === null || notice === null) return 'Open-ended: it runs until somebody ends it.';
  if (decision === 'declined') return `Declined: it ends on ${sayDay(term.to)}.`;
  const left = daysBetween(today, notice);
  const by =
    left >= 0
      ? `notice by ${sayDay(notice)}, ${left === 0 ? 'today' : `in ${left} ${left === 1 ? 'day' : 'days'}`}`
      : `notice was due by ${sayDay(notice)}`;
  if (mode === 'renews by itself') return `Renews by itself for ${months} months after ${sayDay(term.to)}; ${by}.`;
  return mode === 'ends'
    ? `Ends on ${sayDay(term.to)}; ${by}.`
    : `To be renegotiated before ${sayDay(term.to)}; ${by}.`;
}
