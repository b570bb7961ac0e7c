// A bank's statement or list: read on a thread, looked at, and loaded; the same plan is shown before and done after.
import { group } from 'd3-array';
import { and, asc, eq, gt, inArray, isNotNull } from 'drizzle-orm';
import type { BodyOf } from '#api/contract.ts';
import type { BankPreview, loadBank } from '#api/payments.ts';
import type { BankFileId, CustomerId, DocumentId, IncomingId } from '#core/ids.ts';
import {
  bankKeys,
  journalDay,
  numbersMeant,
  proposalFor,
  type BankEntry,
  type BankRead,
  type Candidate,
  type Proposal,
} from '#core/settle/index.ts';
import type { Instant } from '#core/time/index.ts';
import { markCredit } from '../customers/index.ts';
import { customer } from '../customers/tables.ts';
import { instantText } from '../platform/columns.ts';
import { bulkInsert, insertedIds, isTaken, type Db, type Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { refuse } from '../platform/refuse.ts';
import { contentOf, mustBeSame } from '../platform/request-key.ts';
import type { Write } from '../platform/writing.ts';
import { document, documentSeries } from './document-tables.ts';
import { PREFIX } from './documents.ts';
import { stateOf } from './incoming.ts';
import { closedToHeld } from './journal.ts';
import { holdIssued, openItemOf, writeLaid } from './laying.ts';
import { bankFile, incomingPayment } from './paid-tables.ts';

const AT_ONCE = 1000;
const REMARKS_SHOWN = 200;
const ENTRIES_SHOWN = 200;

async function inLots<T, R>(all: readonly T[], of: (some: T[]) => Promise<R[]>): Promise<R[]> {
  const found: R[] = [];
  for (let i = 0; i < all.length; i += AT_ONCE) found.push(...(await of(all.slice(i, i + AT_ONCE))));
  return found;
}

const asCandidate = (row: typeof document.$inferSelect): Candidate => ({
  ...openItemOf(row),
  ...{ seriesNumber: row.number ?? 0, customerId: row.customerId },
});

type Payer = Pick<BankEntry, 'payer' | 'payerAccount'>;
const payerKey = ({ payer, payerAccount }: Payer): string => `${payerAccount}|${payer.toLowerCase()}`;

/** Customers as their payments tell: who paid from an account before, else whose name it is. One that two share is nobody's. */
async function payersOf(db: Db, payers: readonly Payer[]): Promise<Map<string, CustomerId>> {
  const accounts = [...new Set(payers.map((p) => p.payerAccount).filter((a) => a !== ''))];
  const names = [...new Set(payers.map((p) => p.payer).filter((n) => n !== ''))];
  const [paid, named] = [
    await inLots(accounts, (some) =>
      db
        .selectDistinct({ account: incomingPayment.payerAccount, id: incomingPayment.customerId })
        .from(incomingPayment)
        .where(and(inArray(incomingPayment.payerAccount, some), isNotNull(incomingPayment.customerId))),
    ),
    await inLots(names, (some) =>
      db.select({ name: customer.name, id: customer.id }).from(customer).where(inArray(customer.name, some)),
    ),
  ];
  const only = (ids: readonly (CustomerId | null)[]): CustomerId | null => (ids.length === 1 ? (ids[0] ?? null) : null);
  const byAccount = group(paid, (p) => p.account);
  const byName = new Map(named.map((n) => [n.name.toLowerCase(), n.id]));
  return new Map(
    payers.flatMap((p): [string, CustomerId][] => {
      const known = only((byAccount.get(p.payerAccount) ?? []).map((a) => a.id)) ?? byName.get(p.payer.toLowerCase());
      return known ? [[payerKey(p), known]] : [];
    }),
  );
}

/** Open invoices of a customer that are looked through for one that fits. */
const OF_PAYER = 200;

async function openOfPayers(db: Db, ids: readonly CustomerId[]): Promise<Map<CustomerId, Candidate[]>> {
  const found = new Map<CustomerId, Candidate[]>();
  const rows = await inLots([...new Set(ids)], (some) =>
    db
      .select()
      .from(document)
      .where(and(inArray(document.customerId, some), isNotNull(document.openDue), gt(document.unpaid, 0)))
      .orderBy(asc(document.openDue), asc(document.id)),
  );
  for (const row of rows) {
    const own = found.get(row.customerId) ?? [];
    if (own.length < OF_PAYER) found.set(row.customerId, [...own, asCandidate(row)]);
  }
  return found;
}

/** `customerId`: whose it is known to be. */
type Asked = Payer & Pick<BankEntry, 'minor' | 'currency' | 'text'> & { readonly customerId?: CustomerId | null };

/** What payments may be for, each by itself. */
export async function proposalsFor(db: Db, payments: readonly Asked[]): Promise<Proposal[]> {
  const [series] = await db.select().from(documentSeries).where(eq(documentSeries.kind, 'invoice'));
  const prefix = series?.prefix ?? PREFIX.invoice;
  const meant = payments.map((p) => numbersMeant(p.text, prefix));
  const numbers = [...new Set(meant.flatMap((m) => [...m.named, ...m.bare]))];
  const [byNumber, payers] = [
    await inLots(numbers, (some) =>
      db
        .select()
        .from(document)
        .where(and(eq(document.kind, 'invoice'), inArray(document.number, some), gt(document.unpaid, 0))),
    ),
    await payersOf(db, payments),
  ];
  const payerOf = (p: Asked): CustomerId | undefined => p.customerId ?? payers.get(payerKey(p));
  const open = await openOfPayers(
    db,
    payments.flatMap((p) => payerOf(p) ?? []),
  );
  const candidates = new Map(byNumber.map((row) => [row.number as number, asCandidate(row)]));
  return payments.map((p, i) => {
    const own = meant[i] as (typeof meant)[number];
    const named = [...own.named, ...own.bare].flatMap((n) => candidates.get(n) ?? []);
    const payer = payerOf(p);
    return proposalFor(p, own, named, payer === undefined ? null : { customerId: payer, open: open.get(payer) ?? [] });
  });
}

export type Planned = {
  readonly entry: BankEntry;
  readonly key: string;
  readonly isKnown: boolean;
  readonly proposal: Proposal;
};

/**
 * What a file brings: which entries are new, and what each pays. An invoice that two of them are sure of is paid by the first; the other
 * waits for a person.
 */
export async function planBankFile(db: Db, read: BankRead): Promise<Planned[]> {
  const keys = bankKeys(read).map((key) => contentOf([key]));
  const known = new Set(
    (
      await inLots(keys, (some) =>
        db.select({ key: incomingPayment.bankKey }).from(incomingPayment).where(inArray(incomingPayment.bankKey, some)),
      )
    ).map((r) => r.key),
  );
  const proposals = await proposalsFor(db, read.entries);
  const taken = new Set<number>();
  return read.entries.map((entry, i) => {
    const key = keys[i] as string;
    const isKnown = known.has(key);
    const proposal = proposals[i] as Proposal;
    const isFree = !isKnown && proposal.isCertain && proposal.parts.every((p) => !taken.has(p.documentId));
    if (isFree) for (const p of proposal.parts) taken.add(p.documentId);
    return { entry, key, isKnown, proposal: { ...proposal, isCertain: isFree } };
  });
}

/** A file as it was read, and the invoices it would certainly pay. */
export type PlannedFile = { readonly read: BankRead; readonly certain: readonly DocumentId[] };

/** In short what a plan does. */
const digestOf = (planned: readonly Planned[]): string =>
  contentOf(planned.map((p) => [p.key, p.isKnown, p.proposal.isCertain && p.proposal.parts]));

export async function previewBankFile(db: Db, read: BankRead): Promise<BankPreview> {
  const planned = await planBankFile(db, read);
  const fresh = planned.filter((p) => !p.isKnown);
  const sums = new Map<string, number>();
  for (const { entry } of fresh) sums.set(entry.currency, (sums.get(entry.currency) ?? 0) + entry.minor);
  return {
    ...{ seen: digestOf(planned), account: read.account, entries: fresh.length, known: planned.length - fresh.length },
    laid: fresh.filter((p) => p.proposal.isCertain).length,
    sums: [...sums].map(([currency, minor]) => ({ currency, minor })),
    shown: planned.slice(0, ENTRIES_SHOWN).map(({ entry, isKnown, proposal }) => ({
      ...{ line: entry.line, bookedOn: entry.bookedOn, minor: entry.minor, currency: entry.currency },
      ...{ payer: entry.payer, text: entry.text, isKnown, isCertain: proposal.isCertain },
      because: isKnown ? 'loaded before' : proposal.because,
    })),
    ...{ passedOver: read.passed.length, wrong: read.bad.length },
    ...{ passed: read.passed.slice(0, REMARKS_SHOWN), bad: read.bad.slice(0, REMARKS_SHOWN) },
    doubts: [...read.doubts],
  };
}

type By = { readonly who: Person; readonly now: Instant };

async function sentBefore(db: Db, requestKey: string, content: string): Promise<{ id: BankFileId } | null> {
  const [sent] = await db
    .select({ id: bankFile.id, content: bankFile.requestContent })
    .from(bankFile)
    .where(eq(bankFile.requestKey, requestKey));
  if (!sent) return null;
  mustBeSame(sent.content, content);
  return { id: sent.id };
}

/**
 * Loads a file that was read: all that is new in it at once, what is certain laid on its invoices. A repeated request key gives the first
 * one. Refused: rows that cannot be read and were not seen, and a plan that is another one by now.
 */
export async function loadBankFile(
  write: Write,
  db: Db,
  { read, certain }: PlannedFile,
  { requestKey, name, text, seen, without }: BodyOf<typeof loadBank>,
  by: By,
): Promise<{ id: BankFileId }> {
  const requestContent = contentOf({ name, text });
  const sent = await sentBefore(db, requestKey, requestContent);
  if (sent) return sent;
  if (read.bad.length !== without)
    refuse('conflict', `${read.bad.length} rows cannot be read; look at the file again.`, 'without');
  // Who paid what was worked out before anything is held; held, it must still be what was seen.
  try {
    return await write(async (tx, told) => {
      const held = new Set((await holdIssued(tx, certain)).map((d) => d.id));
      // Sent twice at once, the second waited for the first.
      const sentMeanwhile = await sentBefore(tx.db, requestKey, requestContent);
      if (sentMeanwhile) return sentMeanwhile;
      const planned = await planBankFile(tx.db, read);
      if (digestOf(planned) !== seen || certainOf(planned).some((d) => !held.has(d)))
        refuse('conflict', 'Something of it was loaded or paid meanwhile; look at the file again.', 'seen');
      const fresh = planned.filter((p) => !p.isKnown);
      const [file] = await tx.db
        .insert(bankFile)
        .values({
          ...{ name, account: read.account, entries: fresh.length, known: planned.length - fresh.length },
          laid: fresh.filter((p) => p.proposal.isCertain).length,
          ...{ passed: read.passed.length, bad: read.bad.length, personId: by.who.id, at: by.now },
          ...{ requestKey, requestContent },
        })
        .$returningId();
      const id = file?.id as BankFileId;
      await writePayments(tx, id, fresh, by);
      told({ subject: 'bank file', id, text: `${fresh.length} payments of ${name}` });
      return { id };
    });
  } catch (error) {
    if (!isTaken(error)) throw error;
    return (
      (await sentBefore(db, requestKey, requestContent)) ??
      refuse('conflict', 'Somebody loads the same payments just now; look at the file again.', 'seen')
    );
  }
}

export const certainOf = (planned: readonly Planned[]): DocumentId[] =>
  planned.flatMap((p) => (p.proposal.isCertain ? p.proposal.parts.map((x) => x.documentId as DocumentId) : []));

const COLUMNS = [
  ...['customer_id', 'state', 'minor', 'left', 'currency', 'booked_on', 'journal_on', 'payer', 'payer_account'],
  ...['text', 'file_id', 'bank_key', 'person_id', 'at'],
];

async function writePayments(tx: Tx, fileId: BankFileId, fresh: readonly Planned[], by: By): Promise<void> {
  const closedTo = await closedToHeld(tx);
  const first = await bulkInsert(
    tx.connection,
    'incoming_payment',
    COLUMNS,
    fresh.map(({ entry: e, key, proposal }) => {
      const left = proposal.isCertain ? 0 : e.minor;
      return [
        ...[proposal.isCertain ? proposal.customerId : null, stateOf(left), e.minor, left, e.currency, e.bookedOn],
        ...[
          journalDay(e.bookedOn, closedTo),
          e.payer,
          e.payerAccount,
          e.text,
          fileId,
          key,
          by.who.id,
          instantText(by.now),
        ],
      ];
    }),
  );
  const ids = await insertedIds(tx.connection, first, fresh.length);
  await writeLaid(
    tx,
    fresh.flatMap(({ proposal }, i) =>
      proposal.isCertain ? proposal.parts.map((p) => ({ ...p, incomingId: ids[i] as IncomingId, creditId: null })) : [],
    ),
    by,
  );
  const customers = fresh.flatMap(({ proposal }) =>
    proposal.isCertain && proposal.customerId !== null ? [proposal.customerId as CustomerId] : [],
  );
  await markCredit(tx, customers);
}
