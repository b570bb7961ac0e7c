// Invoices and credit notes: their lines, totals by EN 16931, and what of an invoice a credit note may take back.
import type { AgreementId, AssetId, CustomerId, OrderId } from '../ids.ts';
import type { Currency } from '../money.ts';
import { decided, refusal, refused, type Decided } from '../refusal.ts';
import type { LocalDate } from '../time/index.ts';
import { rateKey, totalsOf, type DocumentTotals, type TaxRate, type TaxRow } from './tax.ts';

export const DOCUMENT_KINDS = ['invoice', 'credit note'] as const;
export type DocumentKind = (typeof DOCUMENT_KINDS)[number];

/** How work is brought together on documents, as each customer wants it. */
export const GROUPINGS = ['appointment', 'order', 'month'] as const;
export type Grouping = (typeof GROUPINGS)[number];

/** Which of an order's appointments, from 1, and its day. */
export type ChargedComing = { readonly nth: number; readonly on: LocalDate };

/** Something to be billed: the payer's part of a charge, or an agreement's fee for a period. Minor units. */
export type Billable = {
  /** What may be billed once only. */
  readonly key: string;
  readonly customerId: CustomerId;
  readonly currency: Currency;
  readonly orderId: OrderId | null;
  readonly agreementId: AgreementId | null;
  readonly assetId: AssetId | null;
  /** The approved charge behind it, or the line and period of a fee. */
  readonly chargeId: number | null;
  readonly fee: { readonly key: string; readonly from: LocalDate; readonly to: LocalDate } | null;
  /** The day of the appointment it belongs to and which of the order's that was; null: the order is not billed by appointment. */
  readonly coming: ChargedComing | null;
  /** The customer’s own number for it. */
  readonly reference: string;
  /** The day of the work's end, or the fee's due day. */
  readonly day: LocalDate;
  readonly text: string;
  /** Thousandths of `unit` (UN/ECE Recommendation 20), for which `list` is asked. */
  readonly quantity: number;
  readonly unit: string;
  readonly list: number;
  /** What is off the list price: borne by a cover, discount, goodwill, other payers' parts. */
  readonly off: number;
  readonly offBecause: string;
  readonly rate: TaxRate;
};

/** The net amount of a line (BT-131): what it lists less what is off (BT-136). */
export const netOf = ({ list, off }: Pick<Billable, 'list' | 'off'>): number => list - off;

export type DocumentLine = Billable & { readonly position: number };

export type DraftDocument = {
  readonly kind: DocumentKind;
  readonly customerId: CustomerId;
  readonly currency: Currency;
  /** The order (of one appointment its day and number too), the agreement or the month it is about. */
  readonly about: string;
  readonly lines: readonly DocumentLine[];
  readonly totals: DocumentTotals;
};

export type BillingWish = {
  readonly grouping: Grouping;
  /** Whether what costs them nothing stands on their documents too. */
  readonly showsCovered: boolean;
};

/** What the document is about that a line stands on. Approved while the order was billed as a whole, it has no appointment. */
function aboutOf({ orderId, agreementId, coming, day }: Billable, grouping: Grouping): string {
  if (grouping === 'month') return `month ${day.slice(0, 7)}`;
  if (orderId === null) return `agreement ${agreementId}`;
  return grouping === 'appointment' && coming ? `order ${orderId} ${coming.on} ${coming.nth}` : `order ${orderId}`;
}

const negated = (line: Billable): Billable => ({ ...line, list: 0 - line.list, off: 0 - line.off });

/**
 * One document from its lines. A sum below zero makes a credit note, on which every amount stands with the other sign.
 * Source: settled questions, Settle; EN 16931-1, BR-CO-10 to BR-CO-17.
 */
export function documentOf(about: string, lines: readonly Billable[]): DraftDocument {
  const [first] = lines;
  if (!first) throw new Error('a document has lines');
  const sum = lines.reduce((total, line) => total + netOf(line), 0);
  const kind = sum < 0 ? 'credit note' : 'invoice';
  const shown = kind === 'invoice' ? lines : lines.map(negated);
  return {
    ...{ kind, about, customerId: first.customerId, currency: first.currency },
    lines: shown.map((line, i) => ({ ...line, position: i + 1 })),
    totals: totalsOf(shown.map((line) => ({ amount: netOf(line), rate: line.rate }))),
  };
}

/**
 * One customer's documents out of everything that is to be billed to them, brought together as they wish, currencies apart. `silent`
 * is what costs them nothing and is not wanted on paper: it is billed by no document, and nothing is left to bill of it.
 */
export function documentsOf(
  billables: readonly Billable[],
  { grouping, showsCovered }: BillingWish,
): { readonly documents: readonly DraftDocument[]; readonly silent: readonly Billable[] } {
  const isShown = (b: Billable) => showsCovered || netOf(b) !== 0;
  const groups = new Map<string, { about: string; lines: Billable[] }>();
  for (const b of billables) {
    if (!isShown(b)) continue;
    const about = aboutOf(b, grouping);
    const key = `${b.customerId} ${b.currency} ${about}`;
    const own = groups.get(key);
    if (own) own.lines.push(b);
    else groups.set(key, { about, lines: [b] });
  }
  return {
    documents: [...groups.values()].map(({ about, lines }) => documentOf(about, lines)),
    silent: billables.filter((b) => !isShown(b)),
  };
}

/** What was paid on site for an order and stands on no document yet, in minor units with tax. */
export type PaidBefore = { readonly orderId: OrderId; readonly minor: number };

/**
 * What of a document is paid already (BT-113), order by order, never more than it comes to; nothing on a credit note. What is left to
 * pay (BT-115) is its sum with tax less that. Source: EN 16931-1, BR-CO-16.
 */
export function paidBefore({ kind, lines, totals }: DraftDocument, payments: readonly PaidBefore[]): PaidBefore[] {
  if (kind !== 'invoice') return [];
  const orders = new Set(lines.map((line) => line.orderId));
  let left = totals.withTax;
  return payments.flatMap(({ orderId, minor }): PaidBefore[] => {
    const taken = orders.has(orderId) ? Math.min(left, minor) : 0;
    left -= taken;
    return taken > 0 ? [{ orderId, minor: taken }] : [];
  });
}

/** A line of what was issued, as far as a credit note asks of it. */
export type IssuedLine = { readonly id: number; readonly net: number; readonly rate: TaxRate };
export type IssuedDocument = { readonly lines: readonly IssuedLine[]; readonly rows: readonly TaxRow[] };

/** What a credit note takes back of a line, in minor units. */
export type CreditedLine = { readonly lineId: number; readonly minor: number };
export type CreditNote = { readonly lines: readonly CreditedLine[]; readonly totals: DocumentTotals };

const sumBy = <T>(items: readonly T[], keyOf: (item: T) => string | number, minorOf: (item: T) => number) => {
  const sums = new Map<string | number, number>();
  for (const item of items) sums.set(keyOf(item), (sums.get(keyOf(item)) ?? 0) + minorOf(item));
  return sums;
};

/**
 * A credit note over lines of an invoice, after the credit notes before it. Tax is half-up on each category's sum; the note that takes
 * a category's last amount takes its remaining tax, so that invoice and notes come to nothing together. Refused: a line of another
 * document or named twice, nothing, more than a line has left, an amount of the wrong sign. Source: settled questions, Settle.
 */
export function creditNoteOf(
  { lines, rows }: IssuedDocument,
  before: readonly CreditNote[],
  asked: readonly CreditedLine[],
): Decided<CreditNote> {
  const lineOf = new Map(lines.map((line) => [line.id, line]));
  const credited = sumBy(
    before.flatMap((note) => note.lines),
    (line) => line.lineId,
    (line) => line.minor,
  );
  const leftOf = (line: IssuedLine): number => line.net - (credited.get(line.id) ?? 0);
  const taken = asked.filter((a) => a.minor !== 0);
  if (taken.length === 0) return refused(refusal('missing', 'Say what is credited; nothing is chosen.', 'lines'));
  const seen = new Set<number>();
  for (const [i, { lineId, minor }] of taken.entries()) {
    const line = lineOf.get(lineId);
    if (!line || seen.has(lineId))
      return refused(refusal('invalid', 'Each line of this document is credited once at most.', `lines.${i}.lineId`));
    seen.add(lineId);
    const left = leftOf(line);
    if (!Number.isSafeInteger(minor) || Math.sign(minor) !== Math.sign(left) || Math.abs(minor) > Math.abs(left))
      return refused(refusal('invalid', 'No more is credited of a line than it has left.', `lines.${i}.minor`));
  }
  const lineRate = (lineId: number): TaxRate => (lineOf.get(lineId) as IssuedLine).rate;
  const sums = totalsOf(taken.map((a) => ({ amount: a.minor, rate: lineRate(a.lineId) })));
  const taxableBefore = sumBy(
    before.flatMap((n) => n.totals.rows),
    rateKey,
    (r) => r.taxable,
  );
  const taxBefore = sumBy(
    before.flatMap((n) => n.totals.rows),
    rateKey,
    (r) => r.tax,
  );
  const settledRows = sums.rows.map((row): TaxRow => {
    const issued = rows.find((r) => rateKey(r) === rateKey(row));
    const left = (issued?.taxable ?? 0) - (taxableBefore.get(rateKey(row)) ?? 0);
    return left === row.taxable ? { ...row, tax: (issued?.tax ?? 0) - (taxBefore.get(rateKey(row)) ?? 0) } : row;
  });
  const tax = settledRows.reduce((sum, r) => sum + r.tax, 0);
  return decided({
    lines: taken,
    totals: { ...sums, rows: settledRows, tax, withTax: sums.withoutTax + tax },
  });
}

export const RUN_STATES = ['waiting', 'running', 'ended'] as const;
