// What the demo’s customers paid: most of them a little before or after the day, by transfers that the bank’s statements tell; one pays
// nothing any more, some wrote no number, and one invoice was credited in part.
import { and, asc, eq, gt, lt } from 'drizzle-orm';
import type { Currency } from '#core/money.ts';
import type { BankEntry } from '#core/settle/index.ts';
import { addDays, addMonths, instant, startOfDay, type Instant, type LocalDate, type Zone } from '#core/time/index.ts';
import { followCredit } from '#server/customers/index.ts';
import type { Database } from '#server/platform/database.ts';
import {
  creditOf,
  certainOf,
  loadBankFile,
  planBankFile,
  lookAtCredit,
  markOverdue,
  previewBankFile,
  previewRemindersOf,
  remind,
} from '#server/settle/index.ts';
import { customer, document, documentLine, type person } from '#server/tables.ts';
import { LISBON } from './scenario.ts';

const GRACE_DAYS = 30;
/** Who pays nothing any more of what was issued in the last four months. */
const PAYS_NO_MORE = 'Nudo Genomics';
const SINCE_DAYS = 130;
/** Days after the due day on which each pays, by their place among customers. */
const LAGS = [-3, 27, 0, 8, -6, 2, 11, 1] as const;
/** Transfers of the last days without a number: a person has to look at them. */
const UNNAMED_DAYS = 30;

type By = typeof person.$inferSelect;
type Held = { readonly of: typeof document.$inferSelect; readonly name: string };

/** One transfer of each customer for everything that is due on a day. */
function transfers(open: readonly Held[], today: LocalDate): BankEntry[] {
  const groups = new Map<string, Held[]>();
  for (const held of open) {
    const key = `${held.of.customerId} ${held.of.dueOn}`;
    groups.set(key, [...(groups.get(key) ?? []), held]);
  }
  return [...groups.values()].flatMap((own, line): BankEntry[] => {
    const [{ of, name }] = own as [Held];
    const bookedOn = addDays(of.dueOn as LocalDate, LAGS[of.customerId % LAGS.length] as number);
    const isStopped = name === PAYS_NO_MORE && (of.issuedOn as LocalDate) >= addDays(today, -SINCE_DAYS);
    if (bookedOn >= today || isStopped) return [];
    const isUnnamed = bookedOn >= addDays(today, -UNNAMED_DAYS) && [3, 6].includes(of.customerId % LAGS.length);
    return [
      {
        ...{ line: line + 1, bookedOn, currency: of.currency, payer: name, bankReference: '' },
        minor: own.reduce((sum, h) => sum + h.of.unpaid, 0),
        payerAccount: `PT500002${String(1_000_000 + of.customerId)}`,
        text: isUnnamed ? 'Pagamento de faturas' : own.map((h) => h.of.numberText).join(' '),
      },
    ];
  });
}

export async function writePaid(database: Database, by: By, now: Instant, today: LocalDate): Promise<void> {
  const { db } = database;
  const write = <T>(work: (tx: Parameters<Parameters<Database['transact']>[0]>[0], told: () => void) => Promise<T>) =>
    database.transact((tx) => work(tx, () => undefined));
  await creditOne(database, write, by, now, today);
  const open = await db
    .select({ of: document, name: customer.name })
    .from(document)
    .innerJoin(customer, eq(customer.id, document.customerId))
    .where(and(eq(document.state, 'issued'), gt(document.unpaid, 0)))
    .orderBy(asc(document.dueOn), asc(document.id));
  const all = transfers(open, today);
  const first = all.reduce((least, e) => (e.bookedOn < least ? e.bookedOn : least), today);
  for (let month = `${first.slice(0, 8)}01` as LocalDate; month <= today; month = addMonths(month, 1)) {
    const next = addMonths(month, 1);
    const entries = all.filter((e) => e.bookedOn >= month && e.bookedOn < next);
    if (entries.length === 0) continue;
    const read = { account: 'PT50000000000000000000000', entries, passed: [], bad: [], doubts: [] };
    const at = instant(Math.min(now, startOfDay(LISBON as Zone, next)));
    const { seen } = await previewBankFile(db, read);
    const name = `statement-${month.slice(0, 7)}.xml`;
    await loadBankFile(
      write,
      db,
      { read, certain: certainOf(await planBankFile(db, read)) },
      { requestKey: `demo bank ${month}`, name, text: name, seen, without: 0 },
      { who: by, now: at },
    );
  }
  await database.transact(async (tx) => {
    await followCredit(tx, GRACE_DAYS);
    await markOverdue(tx, null);
  });
  while ((await lookAtCredit(database, now)) > 0);
  // The others are for who looks at the demo.
  const [late] = await db.select({ id: customer.id }).from(customer).where(eq(customer.name, PAYS_NO_MORE));
  const { items } = await previewRemindersOf(db, late ? [late.id] : [], today);
  const customers = items.map((i) => ({ id: i.customer.id as never, currency: i.currency as Currency, seen: i.seen }));
  if (customers.length > 0) await remind(write, customers, by, now);
}

/** Half of the first line of an invoice of two months ago. */
async function creditOne(
  { db }: Database,
  write: Parameters<typeof creditOf>[0],
  by: By,
  now: Instant,
  today: LocalDate,
): Promise<void> {
  const [line] = await db
    .select({ id: documentLine.id, net: documentLine.net, documentId: documentLine.documentId })
    .from(documentLine)
    .innerJoin(document, eq(document.id, documentLine.documentId))
    .where(and(eq(document.state, 'issued'), gt(documentLine.net, 50_00), lt(document.issuedOn, addDays(today, -50))))
    .orderBy(asc(document.issuedOn), asc(documentLine.id))
    .limit(1);
  if (!line) return;
  const reason = 'The visit was cut short; half of it is given back.';
  await creditOf(
    write,
    db,
    line.documentId,
    {
      requestKey: 'demo credit note',
      reason,
      again: false,
      lines: [{ lineId: line.id, minor: Math.floor(line.net / 2) }],
    },
    by,
    now,
  );
}
