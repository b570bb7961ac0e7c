// Open items: what customers still owe of what was billed, how old it is, what a payment pays of it, and what follows from it.
import { sayAmountOf } from '../money.ts';
import { decided, refusal, refused, type Decided } from '../refusal.ts';
import { addDays, daysBetween, type LocalDate } from '../time/index.ts';

export const AGES = ['not due', '1–30 days', '31–60 days', '61–90 days', 'over 90 days'] as const;
export type Age = (typeof AGES)[number];
/** The last day past due of each age but the oldest. */
export const AGE_ENDS = [0, 30, 60, 90] as const;

/** How old something due on a day is: on that day itself it is not overdue. */
export function ageOf(dueOn: LocalDate, today: LocalDate): Age {
  const past = daysBetween(dueOn, today);
  const at = AGE_ENDS.findIndex((end) => past <= end);
  return AGES[at < 0 ? AGES.length - 1 : at] as Age;
}

/** An issued invoice of which something is open. `unpaid` in minor units, above 0. */
export type OpenItem = {
  readonly id: number;
  readonly number: string;
  readonly currency: string;
  readonly unpaid: number;
};
/** What a payment or credit note pays of an invoice, in minor units. */
export type Part = { readonly documentId: number; readonly minor: number };

/**
 * What is left of a payment or credit note after it was laid on invoices. Refused: an invoice twice, one of another currency or with
 * nothing open, less than one minor unit, more than an invoice has open, more than there is to lay.
 */
export function layOn(
  source: { readonly left: number; readonly currency: string },
  items: readonly OpenItem[],
  parts: readonly Part[],
): Decided<number> {
  const itemOf = new Map(items.map((item) => [item.id, item]));
  const seen = new Set<number>();
  let left = source.left;
  for (const [i, { documentId, minor }] of parts.entries()) {
    const item = itemOf.get(documentId);
    const at = `parts.${i}.minor`;
    if (!item) return refused(refusal('not-found', 'That is no invoice of which something is open.', at));
    if (seen.has(documentId)) return refused(refusal('conflict', `${item.number} stands there twice.`, at));
    seen.add(documentId);
    if (item.currency !== source.currency)
      return refused(
        refusal(
          'conflict',
          `${item.number} is in ${item.currency}, this is in ${source.currency}.`,
          `parts.${i}.minor`,
        ),
      );
    if (!Number.isSafeInteger(minor) || minor < 1)
      return refused(refusal('invalid', 'Write an amount above 0, with cents at most.', at));
    if (minor > item.unpaid)
      return refused(
        refusal('invalid', `${item.number} has only ${sayAmountOf(item.unpaid, item.currency)} open.`, at),
      );
    if (minor > left)
      return refused(refusal('invalid', `Only ${sayAmountOf(left, source.currency)} is left of it.`, at));
    left -= minor;
  }
  return decided(left);
}

/** Numbers of documents that a payer may have meant: with the letters of the series, and bare ones of five digits or more. */
export type NumbersMeant = { readonly named: readonly number[]; readonly bare: readonly number[] };

const escaped = (text: string): string => text.replace(/[.*+?^${}()|[\]\\]/g, String.raw`\$&`);

/** Reads what a payer wrote. `prefix` is that of the series of invoices, such as `INV-`; dashes, spaces and case do not matter. */
export function numbersMeant(text: string, prefix: string): NumbersMeant {
  const letters = escaped(prefix.replace(/[^\p{L}\p{N}]/gu, ''));
  const named = new Set<number>();
  const rest = text.replace(new RegExp(`(?<![\\p{L}\\p{N}])${letters}[\\s./-]*(\\d{5,9})(?!\\d)`, 'giu'), (_, n) => {
    named.add(Number(n));
    return ' ';
  });
  const bare = new Set(
    [...rest.matchAll(/(?<![\p{L}\p{N}.,/-])(\d{5,9})(?![\p{L}\p{N}/-])/gu)].map((m) => Number(m[1])),
  );
  return { named: [...named], bare: [...bare].filter((n) => !named.has(n)) };
}

/** An open invoice that a payment may be for. */
export type Candidate = OpenItem & { readonly seriesNumber: number; readonly customerId: number };
export type Proposal = {
  /** Who paid, as far as one can tell; null: one cannot. */
  readonly customerId: number | null;
  readonly parts: readonly Part[];
  /** Sure enough to be done unasked. */
  readonly isCertain: boolean;
  readonly because: string;
};
const NO_PROPOSAL: Proposal = { customerId: null, parts: [], isCertain: false, because: 'nothing fits' };

const payAll = (items: readonly Candidate[]): Part[] => items.map((c) => ({ documentId: c.id, minor: c.unpaid }));

/** As much of each as there is, in order: nothing is laid above what is open, nor above `minor`. */
export function payInOrder(items: readonly Pick<OpenItem, 'id' | 'unpaid'>[], minor: number): Part[] {
  let left = minor;
  return items.flatMap((c): Part[] => {
    const taken = Math.min(left, c.unpaid);
    left -= taken;
    return taken > 0 ? [{ documentId: c.id, minor: taken }] : [];
  });
}

/**
 * What a payment may be for. Certain: every number it names by its letters is an open invoice of one customer and in its currency, and
 * it is exactly what they have open together. Otherwise proposed for a person to look at: what the named ones take of it, one invoice
 * of the payer with exactly that sum, or the payer's oldest. `payer` is who is known to pay from that account or by that name, with what
 * they have open, the oldest first.
 */
export function proposalFor(
  payment: { readonly minor: number; readonly currency: string },
  meant: NumbersMeant,
  byNumber: readonly Candidate[],
  payer: { readonly customerId: number; readonly open: readonly Candidate[] } | null,
): Proposal {
  const fits = (c: Candidate): boolean => c.currency === payment.currency;
  const named = byNumber.filter((c) => fits(c) && meant.named.includes(c.seriesNumber));
  const payers = new Set(named.map((c) => c.customerId));
  const [first] = named;
  if (first) {
    const open = named.reduce((sum, c) => sum + c.unpaid, 0);
    const isCertain = open === payment.minor && payers.size === 1 && named.length === meant.named.length;
    return {
      ...{ customerId: first.customerId, parts: payInOrder(named, payment.minor), isCertain },
      because: `names ${named.map((c) => c.number).join(', ')}${isCertain ? '' : open === payment.minor ? ', and others' : ', but comes to something else'}`,
    };
  }
  const bare = byNumber.filter((c) => fits(c) && meant.bare.includes(c.seriesNumber) && c.unpaid === payment.minor);
  if (bare.length === 1 && bare[0])
    return {
      customerId: bare[0].customerId,
      parts: payAll(bare),
      isCertain: false,
      because: `${bare[0].number} by its digits and sum`,
    };
  if (payer === null) return NO_PROPOSAL;
  const own = payer.open.filter(fits);
  const same = own.filter((c) => c.unpaid === payment.minor);
  const [only] = same;
  return {
    ...{ customerId: payer.customerId, isCertain: false },
    ...(only && same.length === 1
      ? { parts: payAll([only]), because: `${only.number} of that payer has that sum` }
      : {
          parts: payInOrder(own, payment.minor),
          because: own.length > 0 ? 'the oldest of that payer' : 'that payer owes nothing',
        }),
  };
}

export type CreditTerms = {
  /** Days past due that are let go. */
  readonly graceDays: number;
  /** The most that may be open, in minor units; null: no limit. */
  readonly limit: number | null;
};

/**
 * Since when a customer is over their credit terms; null: they are not. Over from the first day after grace of the oldest item that is
 * still open, or from the day on which more was open than their limit allows (the day it was first seen, kept while it lasts).
 * `open` in the currency of the limit; sums below zero (credit notes, money not laid on anything) count for them.
 */
export function overTermsSince(
  open: readonly { readonly dueOn: LocalDate; readonly minor: number }[],
  { graceDays, limit }: CreditTerms,
  was: LocalDate | null,
  today: LocalDate,
): LocalDate | null {
  const sum = open.reduce((total, item) => total + item.minor, 0);
  const late = open
    .filter((item) => item.minor > 0)
    .map((item) => addDays(item.dueOn, graceDays + 1))
    .filter((since) => since <= today)
    .sort();
  const lateSince = sum > 0 ? (late[0] ?? null) : null;
  const isAbove = limit !== null && sum > limit;
  if (!isAbove) return lateSince;
  const above = was ?? today;
  return lateSince !== null && lateSince < above ? lateSince : above;
}

/** A level of reminders: sent once something is so many days past due, and so many after the level before. */
export type ReminderLevel = { readonly days: number; readonly wait: number };
export const MOST_LEVELS = 5;

/** Takes levels of reminders. Refused: too many, days below 1 or that do not rise. */
export function checkLevels(levels: readonly ReminderLevel[]): Decided<readonly ReminderLevel[]> {
  if (levels.length > MOST_LEVELS)
    return refused(refusal('invalid', `At most ${MOST_LEVELS} levels.`, 'reminderLevels'));
  for (const [i, { days, wait }] of levels.entries()) {
    const before = levels[i - 1];
    if (!Number.isInteger(days) || days < 1 || days > 365)
      return refused(refusal('invalid', 'From 1 to 365 days past due.', `reminderLevels.${i}.days`));
    if (!Number.isInteger(wait) || wait < 0 || wait > 365)
      return refused(refusal('invalid', 'From 0 to 365 days after the level before.', `reminderLevels.${i}.wait`));
    if (before && days <= before.days)
      return refused(refusal('out-of-order', `More days than level ${i}.`, `reminderLevels.${i}.days`));
  }
  return decided(levels);
}

/**
 * The level that is due of something overdue, 1 the first; null: none. Levels are not skipped: each is sent, the next one its wait
 * later at the earliest.
 */
export function levelDue(
  item: { readonly dueOn: LocalDate; readonly level: number; readonly remindedOn: LocalDate | null },
  levels: readonly ReminderLevel[],
  today: LocalDate,
): number | null {
  const next = levels[item.level];
  if (!next || daysBetween(item.dueOn, today) < next.days) return null;
  if (item.remindedOn !== null && daysBetween(item.remindedOn, today) < next.wait) return null;
  return item.level + 1;
}
