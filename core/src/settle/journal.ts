// The journal for the accounts: what was billed, paid, written off and borne by cost centres, as entries that balance, each by the day on
// which it happened; and which days are closed.
import { decided, refusal, refused, type Decided } from '../refusal.ts';
import { addDays, addMonths, type LocalDate } from '../time/index.ts';
import type { Verdict } from '../entitlement/index.ts';
import type { ClaimEntry } from './claim.ts';
import type { ChargeElement } from './comes-to.ts';
import type { DocumentKind } from './document.ts';

export const ACCOUNTS = [
  ...(['receivables', 'bank', 'card clearing', 'receipts to allocate', 'tax'] as const),
  ...(['income labour', 'income travel', 'income parts', 'income consumables', 'income other', 'income fees'] as const),
  ...(['written off', 'warranty work', 'own work', 'internal services'] as const),
  ...(['owed by makers', 'credit notes of makers'] as const),
] as const;
export type Account = (typeof ACCOUNTS)[number];

/** Who bears work that a customer does not pay: their agreement, the warranty of the machine, or the provider itself. */
export const BEARERS = ['agreement', 'warranty', 'own'] as const;
export type Bearer = (typeof BEARERS)[number];

/**
 * Whose cost centre the borne part of a charge goes to; null: nothing of it is borne. Internal work and other costs that we took on are
 * our own; else it is the cover that the decision names for the element, which of an agreement or of the warranty. `by` as the charge
 * has it. Source: domain-work, Settle (charges).
 */
export function bearerOfCharge(
  { element, borne, by }: { readonly element: ChargeElement; readonly borne: number; readonly by: string | null },
  { internal, verdict }: { readonly internal: boolean; readonly verdict: Pick<Verdict, 'considered'> | null },
): Bearer | null {
  if (borne === 0) return null;
  if (internal || element === 'other') return 'own';
  const cover = verdict?.considered.find((c) => c.taken && c.label === by);
  return cover && cover.agreementId === null ? 'warranty' : 'agreement';
}

export type JournalLine = {
  readonly account: Account;
  /** The cost centre or the rate of tax it stands for; empty where there is none. */
  readonly centre: string;
  /** Minor units: above 0 a debit, below 0 a credit. */
  readonly minor: number;
};
export type JournalEntry = {
  /** By what it is known for good: of one thing on one day there is one. */
  readonly key: string;
  readonly day: LocalDate;
  readonly currency: string;
  readonly customer: string;
  readonly text: string;
  readonly lines: readonly JournalLine[];
};

/** Sums of one account and centre each, without those that come to nothing, in the order of the accounts. */
function gathered(lines: readonly JournalLine[]): JournalLine[] {
  const sums = new Map<string, JournalLine>();
  for (const line of lines) {
    const key = `${line.account}|${line.centre}`;
    sums.set(key, { ...line, minor: line.minor + (sums.get(key)?.minor ?? 0) });
  }
  return [...sums.values()]
    .filter((l) => l.minor !== 0)
    .sort((a, b) => ACCOUNTS.indexOf(a.account) - ACCOUNTS.indexOf(b.account) || (a.centre < b.centre ? -1 : 1));
}

/** What an issued document tells the accounts. `paid` by card on site, `net` by what it was for. Minor units. */
export type BookedDocument = {
  readonly kind: DocumentKind;
  readonly withTax: number;
  readonly paid: number;
  readonly nets: readonly { readonly of: ChargeElement | 'fees'; readonly minor: number }[];
  readonly taxes: readonly { readonly category: string; readonly hundredths: number; readonly tax: number }[];
};

const INCOME: Readonly<Record<ChargeElement | 'fees', Account>> = {
  labour: 'income labour',
  travel: 'income travel',
  parts: 'income parts',
  consumables: 'income consumables',
  other: 'income other',
  fees: 'income fees',
};

/** Income and tax against what the customer owes and what the card paid before; of a credit note the other way round. */
export function linesOfDocument({ kind, withTax, paid, nets, taxes }: BookedDocument): JournalLine[] {
  const sign = kind === 'invoice' ? 1 : -1;
  return gathered([
    { account: 'receivables', centre: '', minor: sign * (withTax - paid) },
    { account: 'card clearing', centre: '', minor: sign * paid },
    ...nets.map((n) => ({ account: INCOME[n.of], centre: '', minor: -sign * n.minor })),
    ...taxes.map((t) => ({
      account: 'tax' as const,
      centre: `${t.category} ${t.hundredths / 100} %`,
      minor: -sign * t.tax,
    })),
  ]);
}

const between = (debit: Account, credit: Account, minor: number, centre = '', creditCentre = ''): JournalLine[] =>
  gathered([
    { account: debit, centre, minor },
    { account: credit, centre: creditCentre, minor: -minor },
  ]);

/** Money that came in by the bank; what it pays is told when it is allocated. */
export const linesOfReceipt = (minor: number): JournalLine[] => between('bank', 'receipts to allocate', minor);
/** A card held to the terminal: it pays what is billed later. */
export const linesOfCard = (minor: number): JournalLine[] => between('bank', 'card clearing', minor);
/** A payment that was allocated; taken back, with the amount below 0. */
export const linesOfAllocation = (minor: number): JournalLine[] =>
  between('receipts to allocate', 'receivables', minor);
export const linesOfWriteOff = (minor: number): JournalLine[] => between('written off', 'receivables', minor);
/** Work that a cost centre bears; taken back, with the amount below 0. */
export const linesOfCentre = (bearer: Exclude<Bearer, 'agreement'>, centre: string, minor: number): JournalLine[] =>
  between(bearer === 'warranty' ? 'warranty work' : 'own work', 'internal services', minor, centre);

/** What of a claim the maker accepted, what came in of it and what was given up; taken back, with the amount below 0. */
export function linesOfClaim({ kind, minor }: ClaimEntry, maker: string): JournalLine[] {
  if (kind === 'accepted') return between('owed by makers', 'warranty work', minor, maker, maker);
  if (kind === 'given up') return between('warranty work', 'owed by makers', minor, maker, maker);
  if (kind === 'payment') return between('receipts to allocate', 'owed by makers', minor, '', maker);
  return between('credit notes of makers', 'owed by makers', minor, maker, maker);
}

/** The day under which something booked on a day is told: that day, or the first one after what is closed. */
export const journalDay = (bookedOn: LocalDate, closedTo: LocalDate | null): LocalDate =>
  closedTo !== null && bookedOn <= closedTo ? addDays(closedTo, 1) : bookedOn;

/** Days after a month's end from which it can be closed: on no place of the earth it is still running. */
const CLOSES_AFTER_DAYS = 2;

/**
 * The last day of a month, up to which the journal never changes any more. `first` is the month of the first entry. Refused: a month that
 * is closed, one before which another is open, one that has not ended everywhere.
 */
export function closeMonth(
  month: string,
  {
    closedTo,
    first,
    today,
  }: { readonly closedTo: LocalDate | null; readonly first: string; readonly today: LocalDate },
): Decided<LocalDate> {
  const begin = `${month}-01` as LocalDate;
  const end = addDays(addMonths(begin, 1), -1);
  if (closedTo !== null && end <= closedTo)
    return refused(refusal('conflict', 'That month is closed already.', 'month'));
  const next = closedTo === null ? first : addDays(closedTo, 1).slice(0, 7);
  if (month !== next)
    return refused(
      refusal('out-of-order', month > next ? `Close ${next} first.` : 'Nothing was booked in that month.', 'month'),
    );
  if (addDays(end, CLOSES_AFTER_DAYS) > today)
    return refused(refusal('not-ready', 'A month is closed from the second day after its end.', 'month'));
  return decided(end);
}
