// What a bank says came in: entries of a statement, read from a list or given by an ISO 20022 file, each known again by a key of its own.
import { readImportDate } from '../imports/index.ts';
import { parseCurrency, readAmount, type Currency } from '../money.ts';
import type { LocalDate } from '../time/index.ts';

export type BankEntry = {
  /** Where it stands in its file, for words about it. */
  readonly line: number;
  readonly bookedOn: LocalDate;
  /** Minor units, above 0. */
  readonly minor: number;
  readonly currency: Currency;
  readonly payer: string;
  /** The payer's account, without spaces. */
  readonly payerAccount: string;
  /** What the payer wrote. */
  readonly text: string;
  /** The bank's own word for it; empty where it gives none. */
  readonly bankReference: string;
};

export type BankRemark = { readonly line: number; readonly column: string; readonly message: string };
export type BankRead = {
  /** The account it is a statement of; empty where the file does not say. */
  readonly account: string;
  readonly entries: readonly BankEntry[];
  /** What is no payment to us: it goes out, it is not booked yet, it was taken back. */
  readonly passed: readonly BankRemark[];
  /** What cannot be read. */
  readonly bad: readonly BankRemark[];
  /** What speaks against the file as a whole, in sentences; it may be loaded all the same. */
  readonly doubts: readonly string[];
};

export const MOST_BANK_ENTRIES = 20_000;
export const LONGEST_PAYER = 140;
export const LONGEST_BANK_TEXT = 500;

export const tidy = (text: string, most: number): string => text.replace(/\s+/g, ' ').trim().slice(0, most);
export const accountIn = (text: string): string => text.replace(/\s+/g, '').toUpperCase().slice(0, 40);

/**
 * By what an entry is known again, so that a file which is loaded twice, or overlaps another, brings nothing twice: the bank's own
 * reference, else everything it says and how many alike stand before it in its file (two equal payments of one day are two).
 */
export function bankKeys({ account, entries }: Pick<BankRead, 'account' | 'entries'>): string[] {
  const seen = new Map<string, number>();
  return entries.map((e) => {
    const own =
      e.bankReference === ''
        ? JSON.stringify([account, e.bookedOn, e.minor, e.currency, e.payer, e.payerAccount, e.text])
        : JSON.stringify([account, e.bankReference, e.minor, e.currency]);
    const before = seen.get(own) ?? 0;
    seen.set(own, before + 1);
    return `${own} ${before}`;
  });
}

/** Names under which banks give a column, in small letters. */
const HEADS = {
  day: ['booked', 'booking date', 'booked on', 'date', 'value date', 'data', 'data mov.', 'data movimento'],
  amount: ['amount', 'credit', 'value', 'montante', 'valor', 'importância'],
  currency: ['currency', 'moeda'],
  payer: ['payer', 'name', 'debtor', 'from', 'ordenante'],
  account: ['account', 'iban', 'payer account', 'conta'],
  text: ['text', 'reference', 'remittance', 'description', 'purpose', 'descrição', 'descritivo'],
  id: ['id', 'bank reference', 'transaction', 'transaction id', 'referência do banco'],
} as const;
type Column = keyof typeof HEADS;
const COLUMNS = Object.keys(HEADS) as Column[];

/** The same letters in one form, whatever accents were written with. */
const plain = (text: string): string => text.normalize('NFC').trim().toLowerCase();

/**
 * A list of a bank, its head first: a day and an amount, and any of currency, payer, account, text and the bank's reference, in any
 * order. Days are ISO or day before month. A row with something wrong is said and left out, whole; what goes out is passed over.
 * Refused as a whole: no day, no amount or no payer and text in the head, too many rows.
 */
export function readBankList(records: readonly (readonly string[])[], usual: Currency): BankRead {
  const [head = [], ...body] = records;
  const names = head.map(plain);
  const at = (column: Column): number => names.findIndex((n) => (HEADS[column] as readonly string[]).includes(n));
  const where = Object.fromEntries(COLUMNS.map((c) => [c, at(c)])) as Readonly<Record<Column, number>>;
  const whole = (column: string, message: string): BankRead => ({
    ...{ account: '', entries: [], passed: [], bad: [{ line: 1, column, message }], doubts: [] },
  });
  for (const c of ['day', 'amount'] as const)
    if (where[c] < 0) return whole(HEADS[c][0], `The first line needs a column “${HEADS[c][0]}”.`);
  if (where.payer < 0 && where.text < 0) return whole('payer', 'The first line needs a column “payer” or “text”.');
  if (body.length > MOST_BANK_ENTRIES) return whole('', `A file has at most ${MOST_BANK_ENTRIES} rows; divide it.`);
  const [entries, passed, bad]: [BankEntry[], BankRemark[], BankRemark[]] = [[], [], []];
  for (const [i, record] of body.entries()) {
    const line = i + 2;
    if (record.every((cell) => cell.trim() === '')) continue;
    const cell = (c: Column): string => (where[c] < 0 ? '' : (record[where[c]] ?? '')).trim();
    const wrong: BankRemark[] = [];
    const say = (c: Column, message: string): void => void wrong.push({ line, column: HEADS[c][0], message });
    const bookedOn = readImportDate(cell('day'), 'dd/mm/yyyy');
    if (bookedOn === null) say('day', 'Write the day as 2026-03-17 or 17/03/2026.');
    const currency = cell('currency') === '' ? usual : parseCurrency(cell('currency'));
    if (currency === null) say('currency', 'Three letters, such as EUR.');
    const minor = readAmount(cell('amount').replace(/^\+/, ''), currency ?? usual);
    if (minor === null || Math.abs(minor) > 1e12) say('amount', 'Write an amount such as 1,250.00.');
    if (wrong.length > 0 || bookedOn === null || currency === null || minor === null) bad.push(...wrong);
    else if (minor <= 0) passed.push({ line, column: HEADS.amount[0], message: 'It goes out.' });
    else
      entries.push({
        ...{ line, bookedOn, minor, currency, payer: tidy(cell('payer'), LONGEST_PAYER) },
        ...{ payerAccount: accountIn(cell('account')), text: tidy(cell('text'), LONGEST_BANK_TEXT) },
        bankReference: tidy(cell('id'), 100),
      });
  }
  return { account: '', entries, passed, bad, doubts: [] };
}
