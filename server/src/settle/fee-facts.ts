// What agreements owe for their periods: price, amendments, suspensions and everything billed so far, of many agreements at a time.
import { group } from 'd3-array';
import { and, asc, eq, gte, inArray, isNull, ne, or, sql } from 'drizzle-orm';
import type { AgreementId, CustomerId } from '#core/ids.ts';
import type { Currency } from '#core/money.ts';
import { feesDue, restsOf, type BilledFee, type Fee } from '#core/settle/index.ts';
import { addMonths, type Instant, type LocalDate } from '#core/time/index.ts';
import { pricesOf } from '../agreements/index.ts';
import { agreement, agreementSuspension } from '../agreements/tables.ts';
import type { Db } from '../platform/database.ts';
import { document, documentLine } from './document-tables.ts';
import { promisesOf } from './promises.ts';

export type AgreementFees = {
  readonly id: AgreementId;
  readonly customerId: CustomerId;
  readonly currency: Currency;
  readonly fees: readonly Fee[];
  /** Why it bills nothing although somebody might expect it to; null: it does, or nothing is due. */
  readonly remark: string | null;
};

const BILLED = ['in force', 'suspended', 'ended'] as const;

/** What was billed of each line and period, less what was taken back to be billed again. Drafts count: they are on their way. */
async function billedOf(db: Db, ids: readonly AgreementId[]): Promise<Map<AgreementId, BilledFee[]>> {
  const rows = await db
    .select({
      ...{ id: documentLine.agreementId, key: documentLine.feeKey, from: documentLine.feeFrom },
      to: sql<LocalDate>`max(${documentLine.feeTo})`,
      label: sql<string>`max(${documentLine.text})`,
      minor: sql<string>`sum(case when ${document.kind} = 'invoice' then ${documentLine.net} else -${documentLine.net} end)`,
      times: sql<string>`sum(case when ${documentLine.ofLineId} is null then 1 else 0 end)`,
    })
    .from(documentLine)
    .innerJoin(document, eq(document.id, documentLine.documentId))
    .where(
      and(
        inArray(documentLine.agreementId, [...ids]),
        sql`${documentLine.feeKey} is not null`,
        or(isNull(documentLine.ofLineId), eq(documentLine.again, true)),
      ),
    )
    .groupBy(documentLine.agreementId, documentLine.feeKey, documentLine.feeFrom)
    .orderBy(asc(documentLine.feeFrom));
  const held = new Map<AgreementId, BilledFee[]>();
  for (const r of rows) {
    const fee = {
      ...{ key: r.key ?? '', from: r.from as LocalDate, to: r.to, label: r.label },
      ...{ minor: Number(r.minor), times: Number(r.times) },
    };
    held.set(r.id as AgreementId, [...(held.get(r.id as AgreementId) ?? []), fee]);
  }
  return held;
}

/** Agreements of customers that may owe something: those that ended before the house billed do not. */
const agreementsOf = (db: Db, customers: readonly CustomerId[], since: LocalDate) =>
  db
    .select()
    .from(agreement)
    .where(
      and(
        inArray(agreement.customerId, [...customers]),
        inArray(agreement.stage, [...BILLED]),
        or(isNull(agreement.termTo), gte(agreement.termTo, since)),
      ),
    )
    .orderBy(asc(agreement.customerId), asc(agreement.id));

const earlier = (a: LocalDate | null, b: LocalDate | null): LocalDate | null =>
  a === null ? b : b === null || a < b ? a : b;

/** What agreements bill and when, without what was billed of it: price, plan, and the days in which they rest. */
export async function pricedOf(db: Db, rows: readonly (typeof agreement.$inferSelect)[], upTo: LocalDate) {
  const [prices, suspended] = await Promise.all([
    pricesOf(db, rows, upTo),
    db
      .select()
      .from(agreementSuspension)
      .where(
        inArray(
          agreementSuspension.agreementId,
          rows.map((r) => r.id),
        ),
      )
      .orderBy(asc(agreementSuspension.fromDay)),
  ]);
  const restOf = group(suspended, (s) => s.agreementId);
  return rows.map((row) => {
    const { stretches, visits } = prices(row.id);
    const own = restOf.get(row.id) ?? [];
    const rests = row.suspendedBilling ? [] : restsOf(own.map((s) => ({ from: s.fromDay, resumedOn: s.resumedOn })));
    return {
      plan: { per: row.billingPer, timing: row.billingTiming, indexation: row.indexation },
      term: { from: row.termFrom, to: earlier(row.termTo, row.endedOn) },
      ...{ stretches, visits, rests },
    };
  });
}

/** The longest period of a plan. */
const LONGEST_MONTHS = 12;

/** From when on promises may be credited: of every period whose credit falls due since we bill, and of those that were credited. */
const creditedFrom = (since: LocalDate, billed: ReadonlyMap<AgreementId, readonly BilledFee[]>): LocalDate =>
  [...billed.values()]
    .flat()
    .reduce((first, b) => (b.from < first ? b.from : first), addMonths(since, -LONGEST_MONTHS));

/** The fees of customers' agreements that are due up to a day. As many questions for many as for one. */
export async function feesOf(
  db: Db,
  customers: readonly CustomerId[],
  since: LocalDate,
  upTo: LocalDate,
  now: Instant,
): Promise<AgreementFees[]> {
  const rows = customers.length === 0 ? [] : await agreementsOf(db, customers, since);
  if (rows.length === 0) return [];
  const ids = rows.map((r) => r.id);
  const [priced, billed] = await Promise.all([pricedOf(db, rows, upTo), billedOf(db, ids)]);
  const promises = await promisesOf(db, ids, creditedFrom(since, billed), now);
  return rows.map((row, i): AgreementFees => {
    const own = priced[i] as (typeof priced)[number];
    const fees = feesDue({ ...own, since, billed: billed.get(row.id) ?? [], promises: promises(row.id) }, upTo);
    return {
      ...{ id: row.id, customerId: row.customerId, currency: row.currency, fees },
      remark:
        row.stage !== 'ended' && own.stretches.length === 0
          ? `${row.number} has no price: write one, or amend it`
          : row.stage === 'suspended' && !row.suspendedBilling && fees.length === 0
            ? `${row.number} is suspended and bills nothing meanwhile`
            : null,
    };
  });
}

/** Customers with agreements that may owe something, after one of them. */
export const payersOfFees = (db: Db, after: CustomerId, since: LocalDate, most: number) =>
  db
    .selectDistinct({ id: agreement.customerId })
    .from(agreement)
    .where(
      and(
        sql`${agreement.customerId} > ${after}`,
        ne(agreement.stage, 'draft'),
        or(isNull(agreement.termTo), gte(agreement.termTo, since)),
      ),
    )
    .orderBy(asc(agreement.customerId))
    .limit(most);
