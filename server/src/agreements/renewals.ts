// Renewals: agreements by their notice date, accepting or declining, and what happens by itself.
import { and, asc, eq, gt, inArray, isNotNull, isNull, lt, lte, ne, or, sql, type SQL } from 'drizzle-orm';
import type { Asked } from '#api/contract.ts';
import type { decideRenewal } from '#api/agreements/index.ts';
import { dueByItself, noticeDate, renewedTerm, sayRenewal } from '#core/agreements/index.ts';
import type { AgreementId, AmendmentId } from '#core/ids.ts';
import { sayMoney, timesRatio } from '#core/money.ts';
import { addDays, asZone, localDateAt, sayDay, type Instant, type LocalDate } from '#core/time/index.ts';
import type { Database, Db, Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { refuse, stale } from '../platform/refuse.ts';
import { person } from '../platform/tables.ts';
import { calendar } from '../calendars/tables.ts';
import { customer } from '../customers/tables.ts';
import { agreement, agreementAmendment, coverageLine } from './tables.ts';
import { headerWords, keepFirstVersion } from './amend.ts';
import { lockAgreement, tell } from './acts.ts';
import type { AgreementRow } from './lines.ts';
import { tellManagers } from './notices.ts';
import { renewalFactsOf } from './renewal-facts.ts';

export async function listRenewals(db: Db, today: LocalDate, days: number) {
  const rows = await db
    .select({ row: agreement, customer: customer.name, manager: person.name })
    .from(agreement)
    .innerJoin(customer, eq(customer.id, agreement.customerId))
    .leftJoin(person, eq(person.id, agreement.managerId))
    .where(
      and(
        inArray(agreement.stage, ['in force', 'suspended']),
        isNotNull(agreement.noticeBy),
        lte(agreement.noticeBy, addDays(today, days)),
      ),
    )
    .orderBy(asc(agreement.noticeBy), asc(agreement.id))
    .limit(500);
  return {
    today,
    items: rows.map(({ row, customer: name, manager }) => ({
      id: row.id,
      version: row.version,
      number: row.number,
      name: row.name,
      customer: { id: row.customerId, name },
      stage: row.stage,
      to: row.termTo as LocalDate,
      noticeBy: row.noticeBy as LocalDate,
      mode: row.renewalMode,
      months: row.renewalMonths,
      decision: row.renewalDecision,
      manager,
      currency: row.currency,
      priceMinor: row.priceMinor,
      sentence: sayRenewal(renewalFactsOf(row), today),
    })),
  };
}

/** Writes the next term as a version of its own: from the day after the present one, with every price changed alike. */
async function renewIn(
  tx: Tx,
  row: AgreementRow,
  months: number,
  priceChange: number,
  reason: string,
  who: Person | null,
  now: Instant,
): Promise<string> {
  if (row.termTo === null) refuse('wrong-stage', 'An open-ended agreement runs on; there is nothing to renew.');
  const from = addDays(row.termTo, 1);
  const term = renewedTerm({ from: row.termFrom, to: row.termTo }, months);
  const factor = [BigInt(10_000 + priceChange), 10_000n] as const;
  await keepFirstVersion(tx, row, null, now);
  const [newest] = await tx.db
    .select({ n: sql<number>`max(${agreementAmendment.number})` })
    .from(agreementAmendment)
    .where(eq(agreementAmendment.agreementId, row.id));
  const next: AgreementRow = {
    ...row,
    termTo: term.to,
    noticeBy: noticeDate(term.to, row.noticeDays),
    renewalDecision: null,
    priceMinor: row.priceMinor === null ? null : timesRatio(row.priceMinor, ...factor),
  };
  const [made] = await tx.db
    .insert(agreementAmendment)
    .values({
      agreementId: row.id,
      number: Number(newest?.n ?? 0) + 1,
      holdsFrom: from,
      reason,
      header: await headerWords(tx.db, next),
      priceMinor: next.priceMinor,
      at: now,
      personId: who?.id ?? null,
    })
    .$returningId();
  const lines = await tx.db.select().from(coverageLine).where(eq(coverageLine.agreementId, row.id)).for('update');
  for (const line of lines) {
    // Lines that ran to the old end go on; those with a price of their own get the new one from then.
    const runsOn = line.termTo === null || line.termTo === row.termTo;
    if (!runsOn || (line.priceMinor === null && line.termTo === null)) continue;
    const { id, ...kept } = line;
    await tx.db.update(coverageLine).set({ termTo: row.termTo, endedById: made?.id }).where(eq(coverageLine.id, id));
    await tx.db.insert(coverageLine).values({
      ...kept,
      termFrom: from,
      termTo: null,
      priceMinor: line.priceMinor === null ? null : timesRatio(line.priceMinor, ...factor),
      rootId: line.rootId ?? id,
      amendmentId: made?.id as AmendmentId,
    });
  }
  await tx.db
    .update(agreement)
    .set({
      termTo: next.termTo,
      noticeBy: next.noticeBy,
      renewalDecision: null,
      priceMinor: next.priceMinor,
      version: row.version + 1,
    })
    .where(eq(agreement.id, row.id));
  const price =
    next.priceMinor === null ? '' : `, price ${sayMoney({ minor: next.priceMinor, currency: row.currency })}`;
  return `renewed to ${next.termTo ? sayDay(next.termTo) : 'open end'}${price}`;
}

export async function decide(
  database: Database,
  id: AgreementId,
  ask: Asked<typeof decideRenewal>['body'],
  who: Person,
  now: Instant,
): Promise<number> {
  return database.transact(async (tx) => {
    const row = await lockAgreement(tx, id);
    if (row.version !== ask.version) stale(row);
    if (row.stage !== 'in force' && row.stage !== 'suspended')
      refuse('wrong-stage', `The agreement is ${row.stage}; only one in force is renewed.`);
    if (row.termTo === null) refuse('wrong-stage', 'An open-ended agreement runs on; there is nothing to decide.');
    if (ask.decision === 'declined') {
      await tx.db
        .update(agreement)
        .set({ renewalDecision: 'declined', version: row.version + 1 })
        .where(eq(agreement.id, id));
      await tell(tx, id, who, now, `renewal declined, ends on ${sayDay(row.termTo)}: ${ask.reason}`);
    } else {
      const reason = ask.reason || 'renewed';
      const text = await renewIn(tx, row, ask.months, ask.priceChange, reason, who, now);
      await tell(tx, id, who, now, `${text}: ${reason}`);
    }
    return row.version + 1;
  });
}

const AT_ONCE = 100;

/** Renews and ends what is due by itself today; each agreement in a transaction of its own, so that any server may stop at any point. */
export async function sweepRenewals(
  database: Database,
  now: Instant,
): Promise<{ renewed: number; ended: number; told: number }> {
  // Days change where the provider's first calendar is.
  const [first] = await database.db.select({ zone: calendar.zone }).from(calendar).orderBy(asc(calendar.id)).limit(1);
  const today = localDateAt(first?.zone ?? asZone('UTC'), now);
  const counts = { renewed: 0, ended: 0, told: await tellManagers(database, today, now) };
  for (let after = 0; ;) {
    const ids = await database.db
      .select({ id: agreement.id })
      .from(agreement)
      .where(and(mayActByItself(today), gt(agreement.id, after as AgreementId)))
      .orderBy(asc(agreement.id))
      .limit(AT_ONCE);
    for (const { id } of ids) await actByItself(database, id, today, now, counts);
    const last = ids.at(-1);
    if (!last || ids.length < AT_ONCE) return counts;
    after = last.id;
  }
}

/** In the query what `dueByItself` decides: what waits for somebody's decision is not read at all. */
const mayActByItself = (today: LocalDate): SQL | undefined =>
  and(
    inArray(agreement.stage, ['in force', 'suspended']),
    or(
      lt(agreement.termTo, today),
      and(
        lt(agreement.noticeBy, today),
        eq(agreement.stage, 'in force'),
        eq(agreement.renewalMode, 'renews by itself'),
        or(isNull(agreement.renewalDecision), ne(agreement.renewalDecision, 'declined')),
      ),
    ),
  );

async function actByItself(
  database: Database,
  id: AgreementId,
  today: LocalDate,
  now: Instant,
  counts: { renewed: number; ended: number },
): Promise<void> {
  const did = await database.transact(async (tx) => {
    const row = await lockAgreement(tx, id);
    const due = dueByItself(renewalFactsOf(row), today);
    if (due === 'renew') {
      const text = await renewIn(tx, row, row.renewalMonths, 0, 'renewed by itself', null, now);
      await tell(tx, row.id, null, now, text);
    } else if (due === 'end') {
      await tx.db
        .update(agreement)
        .set({ stage: 'ended', version: row.version + 1 })
        .where(eq(agreement.id, row.id));
      await tell(
        tx,
        row.id,
        null,
        now,
        `${row.stage} → ended: its term was over on ${sayDay(row.termTo as LocalDate)}`,
      );
    }
    return due;
  });
  if (did === 'renew') counts.renewed += 1;
  if (did === 'end') counts.ended += 1;
}
