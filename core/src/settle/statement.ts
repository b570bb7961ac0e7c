// A statement of a bank by ISO 20022 (camt.053), given as the tree of its elements: which entries are payments to us.
import { decimalsOf, parseCurrency, sayAmountOf, type Currency } from '../money.ts';
import { parseLocalDate, type LocalDate } from '../time/index.ts';
import {
  accountIn,
  LONGEST_BANK_TEXT,
  LONGEST_PAYER,
  MOST_BANK_ENTRIES,
  tidy,
  type BankEntry,
  type BankRead,
  type BankRemark,
} from './bank.ts';

/** An element: text, or its children by name, attributes with `@` before theirs; several of a name as a list. */
export type Element = string | { readonly [name: string]: Element | readonly Element[] } | null | undefined;

/** All elements at the end of a path of names. */
function all(of: Element | readonly Element[], ...path: readonly string[]): Element[] {
  const here: readonly Element[] = Array.isArray(of) ? of : [of as Element];
  const [name, ...rest] = path;
  if (name === undefined) return here.filter((e) => e !== null && e !== undefined);
  return here.flatMap((e) =>
    typeof e === 'object' && e !== null && name in e ? all(e[name] as Element, ...rest) : [],
  );
}
const textOf = (e: Element): string =>
  typeof e === 'string' ? e : typeof e === 'object' && e !== null && typeof e['#text'] === 'string' ? e['#text'] : '';
const text = (of: Element, ...path: readonly string[]): string => textOf(all(of, ...path)[0]).trim();
const firstOf = (...texts: readonly string[]): string => texts.find((t) => t !== '') ?? '';

/** An amount as ISO 20022 writes it, a point before its decimals; null: it is none, or finer than its currency. */
export function isoAmount(written: string, currency: string): number | null {
  const found = /^(\d{1,13})(?:\.(\d{1,5}))?$/.exec(written.trim());
  if (!found) return null;
  const places = decimalsOf(currency);
  const fraction = (found[2] ?? '').replace(/0+$/, '');
  return fraction.length > places ? null : Number(`${found[1]}${fraction.padEnd(places, '0')}`);
}

type Sum = { readonly minor: number; readonly currency: Currency };
function sumOf(amount: Element): Sum | null {
  const currency = parseCurrency(text(amount, '@Ccy'));
  const minor = currency && isoAmount(textOf(amount), currency);
  return currency === null || minor === null ? null : { minor, currency };
}

const dayOf = (entry: Element): LocalDate | null =>
  parseLocalDate(firstOf(text(entry, 'BookgDt', 'Dt'), text(entry, 'BookgDt', 'DtTm').slice(0, 10)));

const wordsOf = (details: Element): string =>
  [
    ...all(details, 'RmtInf', 'Ustrd').map(textOf),
    ...all(details, 'RmtInf', 'Strd', 'CdtrRefInf', 'Ref').map(textOf),
    ...all(details, 'RmtInf', 'Strd', 'RfrdDocInf', 'Nb').map(textOf),
  ]
    .filter((t) => t !== '')
    .join(' ');

function entryOf(
  entry: Element,
  details: Element,
  of: Sum & { readonly line: number; readonly bookedOn: LocalDate },
): BankEntry {
  const endToEnd = text(details, 'Refs', 'EndToEndId');
  return {
    ...of,
    payer: tidy(
      firstOf(text(details, 'RltdPties', 'Dbtr', 'Nm'), text(details, 'RltdPties', 'Dbtr', 'Pty', 'Nm')),
      LONGEST_PAYER,
    ),
    payerAccount: accountIn(
      firstOf(
        text(details, 'RltdPties', 'DbtrAcct', 'Id', 'IBAN'),
        text(details, 'RltdPties', 'DbtrAcct', 'Id', 'Othr', 'Id'),
      ),
    ),
    text: tidy(
      [wordsOf(details), endToEnd === 'NOTPROVIDED' ? '' : endToEnd, text(entry, 'AddtlNtryInf')]
        .filter((t) => t !== '')
        .join(' '),
      LONGEST_BANK_TEXT,
    ),
    bankReference: tidy(
      firstOf(text(details, 'Refs', 'AcctSvcrRef'), text(details, 'Refs', 'TxId'), text(entry, 'AcctSvcrRef')),
      100,
    ),
  };
}

/** Why an entry is no payment to us; null: it is one. */
function passedBecause(entry: Element): string | null {
  if (text(entry, 'CdtDbtInd') !== 'CRDT') return 'It goes out.';
  if (text(entry, 'RvslInd') === 'true') return 'A payment of ours came back.';
  if (firstOf(text(entry, 'Sts', 'Cd'), text(entry, 'Sts')) !== 'BOOK') return 'It is not booked yet.';
  return null;
}

/** The payments of one entry: each of a batch by itself where their sums are given and are those of the entry, else the entry as one. */
function paymentsOf(entry: Element, line: number, bookedOn: LocalDate, whole: Sum): BankEntry[] {
  const details = all(entry, 'NtryDtls', 'TxDtls');
  const sums = details.map((d) => sumOf(firstOfAll(all(d, 'Amt'), all(d, 'AmtDtls', 'TxAmt', 'Amt'))));
  const isWhole =
    details.length > 1 &&
    sums.every((s): s is Sum => s !== null && s.minor > 0 && s.currency === whole.currency) &&
    sums.reduce((total, s) => total + (s?.minor ?? 0), 0) === whole.minor;
  if (isWhole) return details.map((d, i) => entryOf(entry, d, { line, bookedOn, ...(sums[i] as Sum) }));
  return [
    entryOf(entry, details.length === 1 ? details[0] : { RmtInf: details.flatMap((d) => all(d, 'RmtInf')) }, {
      line,
      bookedOn,
      ...whole,
    }),
  ];
}
const firstOfAll = (...lists: readonly Element[][]): Element => lists.find((l) => l.length > 0)?.[0];

const isOut = (of: Element): boolean => text(of, 'CdtDbtInd') === 'DBIT';
/** Below zero where it is owed to the bank, or goes out. */
function signed(of: Element): Sum | null {
  const sum = sumOf(all(of, 'Amt')[0]);
  return sum && isOut(of) ? { ...sum, minor: -sum.minor } : sum;
}

/** The balance of the first of these kinds that a statement has. */
function balanceOf(statement: Element, ...kinds: readonly string[]): Sum | null {
  const balances = all(statement, 'Bal');
  const found = kinds.flatMap((kind) => balances.filter((b) => text(b, 'Tp', 'CdOrPrtry', 'Cd') === kind));
  return found[0] ? signed(found[0]) : null;
}

/**
 * Why a statement does not say all that was booked: its balance at the end is not that at the begin with what it lists. Nothing where it
 * has not both, where they are of several currencies, or where an amount cannot be read. Source: ISO 20022, camt.053 (OPBD, PRCD, CLBD).
 */
function doubtOf(statement: Element, i: number): string[] {
  const [opening, closing] = [balanceOf(statement, 'OPBD', 'PRCD'), balanceOf(statement, 'CLBD')];
  const booked = all(statement, 'Ntry').filter((e) => firstOf(text(e, 'Sts', 'Cd'), text(e, 'Sts')) === 'BOOK');
  const sums = booked.map(signed);
  if (!opening || !closing || sums.some((s) => s?.currency !== opening.currency)) return [];
  const { currency } = opening;
  const comesTo = sums.reduce((total, s) => total + (s?.minor ?? 0), opening.minor);
  if (closing.currency !== currency || comesTo === closing.minor) return [];
  const said = (minor: number): string => `${currency} ${sayAmountOf(minor, currency)}`;
  return [
    `Statement ${i + 1} ends at ${said(closing.minor)}, but what it begins with and lists comes to ${said(comesTo)}: something may be missing.`,
  ];
}

/**
 * The payments to us on statements of one account. `line` counts entries, 1 the first. Passed over, each with why: what goes out, is not
 * booked, came back. Refused as a whole: no statement, statements of several accounts, too many entries. Source: ISO 20022,
 * camt.053.001.02 and later (BkToCstmrStmt).
 */
export function readStatement(tree: Element): BankRead {
  const whole = (message: string): BankRead => ({
    ...{ account: '', entries: [], passed: [], bad: [{ line: 0, column: '', message }], doubts: [] },
  });
  const statements = all(tree, 'Document', 'BkToCstmrStmt', 'Stmt');
  if (statements.length === 0) return whole('That is no statement of a bank (camt.053).');
  const accounts = new Set(
    statements.map((s) => accountIn(firstOf(text(s, 'Acct', 'Id', 'IBAN'), text(s, 'Acct', 'Id', 'Othr', 'Id')))),
  );
  if (accounts.size > 1) return whole('It holds statements of several accounts; load one account at a time.');
  const found = statements.flatMap((s) => all(s, 'Ntry'));
  if (found.length > MOST_BANK_ENTRIES) return whole(`A file has at most ${MOST_BANK_ENTRIES} entries; divide it.`);
  const [entries, passed, bad]: [BankEntry[], BankRemark[], BankRemark[]] = [[], [], []];
  for (const [i, entry] of found.entries()) {
    const line = i + 1;
    const because = passedBecause(entry);
    const [bookedOn, sum] = [dayOf(entry), sumOf(all(entry, 'Amt')[0])];
    if (because !== null) passed.push({ line, column: 'entry', message: because });
    else if (bookedOn === null)
      bad.push({ line, column: 'BookgDt', message: 'The day on which it was booked is missing.' });
    else if (sum === null || sum.minor < 1)
      bad.push({ line, column: 'Amt', message: 'The amount cannot be read with its currency.' });
    else entries.push(...paymentsOf(entry, line, bookedOn, sum));
  }
  return { account: [...accounts][0] ?? '', entries, passed, bad, doubts: statements.flatMap(doubtOf) };
}
