// Versions of an agreement: an amendment holds from its date and never overwrites; two versions side by side.
import type { AgreementStage, Term } from '../entitlement/index.ts';
import { decided, refusal, refused, type Decided } from '../refusal.ts';
import { daysBetween, sayDay, type LocalDate } from '../time/index.ts';

export type AmendmentAsk = {
  readonly stage: AgreementStage;
  readonly term: Term;
  /** The day from which the newest amendment holds; null when there is none. */
  readonly newest: LocalDate | null;
  readonly from: LocalDate;
  readonly today: LocalDate;
  /** First day of the newest billing period that has fallen due; null without a price. */
  readonly billedFrom: LocalDate | null;
};

/**
 * Whether an agreement may be amended from a date, with what to be aware of. Refused: drafts and ended agreements, a date outside
 * the term, a date before the newest amendment (its versions follow each other). Visits and clocks before the date stay.
 */
export function checkAmendment(ask: AmendmentAsk): Decided<{ warnings: string[] }> {
  const { stage, term, newest, from, today, billedFrom } = ask;
  if (stage === 'draft')
    return refused(refusal('wrong-stage', 'A draft is changed as it is; only what is in force is amended.'));
  if (stage === 'ended') return refused(refusal('wrong-stage', 'The agreement has ended; write a new one.'));
  if (from < term.from || (term.to !== null && from > term.to))
    return refused(
      refusal(
        'invalid',
        `The agreement runs from ${sayDay(term.from)}${term.to ? ` to ${sayDay(term.to)}` : ''}; give a date inside its term.`,
        'from',
      ),
    );
  if (newest !== null && from < newest)
    return refused(
      refusal('conflict', `An amendment holds from ${sayDay(newest)} already; give that day or a later one.`, 'from'),
    );
  const warnings: string[] = [];
  if (from < today)
    warnings.push(
      `It holds from ${daysBetween(from, today)} days ago: orders raised and visits done since then keep what was decided for them.`,
    );
  if (billedFrom !== null && from < billedFrom)
    warnings.push(
      `Amounts for periods before ${sayDay(billedFrom)} have fallen due already; settle the difference by hand.`,
    );
  return decided({ warnings });
}

/** One line as it held on a day; `root` stays the same through its amendments. Terms are words for people, by name. */
export type HeldLine = {
  readonly root: number;
  readonly label: string;
  readonly terms: Readonly<Record<string, string>>;
};
export type HeldVersion = { readonly header: Readonly<Record<string, string>>; readonly lines: readonly HeldLine[] };

export type FieldChange = { readonly name: string; readonly before: string | null; readonly after: string | null };
export type LineChange = {
  readonly label: string;
  readonly change: 'added' | 'removed' | 'changed';
  readonly fields: FieldChange[];
};

function fieldChanges(
  before: Readonly<Record<string, string>>,
  after: Readonly<Record<string, string>>,
): FieldChange[] {
  return [...new Set([...Object.keys(before), ...Object.keys(after)])]
    .filter((name) => before[name] !== after[name])
    .map((name) => ({ name, before: before[name] ?? null, after: after[name] ?? null }));
}

/** What differs between two versions; nothing for the same version twice. */
export function compareVersions(
  before: HeldVersion,
  after: HeldVersion,
): { header: FieldChange[]; lines: LineChange[] } {
  const old = new Map(before.lines.map((l) => [l.root, l]));
  const young = new Map(after.lines.map((l) => [l.root, l]));
  const lines = [...new Set([...old.keys(), ...young.keys()])].flatMap((root): LineChange[] => {
    const [a, b] = [old.get(root), young.get(root)];
    const fields = fieldChanges(a?.terms ?? {}, b?.terms ?? {});
    if (a && b) return fields.length === 0 ? [] : [{ label: b.label, change: 'changed', fields }];
    return [{ label: (a ?? b)?.label ?? '', change: a ? 'removed' : 'added', fields }];
  });
  return { header: fieldChanges(before.header, after.header), lines };
}
