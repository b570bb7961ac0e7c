// What margins add up: fees by the day, service credits, and what was done, in sums of minor units.
import { and, eq, gte, inArray, like, lte, sql } from 'drizzle-orm';
import type { MarginSums } from '#api/margins.ts';
import type { AgreementId } from '#core/ids.ts';
import { billedPeriods, type BilledPeriod } from '#core/agreements/index.ts';
import type { LocalDate } from '#core/time/index.ts';
import type { agreement } from '../agreements/tables.ts';
import type { Db } from '../platform/database.ts';
import { document, documentLine } from './document-tables.ts';
import { pricedOf } from './fee-facts.ts';

const AT_ONCE = 200;

export type Row = typeof agreement.$inferSelect;
export type Period = { readonly from: LocalDate; readonly to: LocalDate };
export const NOTHING: MarginSums = { earned: 0, charged: 0, cost: 0, margin: 0 };

export const plus = (a: MarginSums, b: Omit<MarginSums, 'margin'>): MarginSums => {
  const sum = { earned: a.earned + b.earned, charged: a.charged + b.charged, cost: a.cost + b.cost };
  return { ...sum, margin: sum.earned - sum.cost };
};

/** What is billed of agreements, period by period, up to a day. */
export async function periodsOf(
  db: Db,
  rows: readonly Row[],
  to: LocalDate,
): Promise<Map<AgreementId, BilledPeriod[]>> {
  const found = new Map<AgreementId, BilledPeriod[]>();
  for (let i = 0; i < rows.length; i += AT_ONCE) {
    const some = rows.slice(i, i + AT_ONCE);
    const priced = await pricedOf(db, some, to);
    for (const [j, { plan, term, stretches, visits, rests }] of priced.entries())
      found.set((some[j] as Row).id, billedPeriods(plan, term, stretches, term.from, to, visits, rests));
  }
  return found;
}

export type Credited = { readonly agreementId: AgreementId; readonly on: LocalDate; readonly minor: number };

/** Service credits on documents, below zero, each on the last day of the period for which it is given. */
export async function creditedIn(db: Db, ids: readonly AgreementId[], { from, to }: Period): Promise<Credited[]> {
  if (ids.length === 0) return [];
  const rows = await db
    .select({
      ...{ agreementId: documentLine.agreementId, on: documentLine.feeTo },
      minor: sql<string>`sum(case when ${document.kind} = 'invoice' then ${documentLine.net} else -${documentLine.net} end)`,
    })
    .from(documentLine)
    .innerJoin(document, eq(document.id, documentLine.documentId))
    .where(
      and(
        inArray(documentLine.agreementId, [...ids]),
        like(documentLine.feeKey, 'credit %'),
        gte(documentLine.feeTo, from),
        lte(documentLine.feeTo, to),
      ),
    )
    .groupBy(documentLine.agreementId, documentLine.feeTo);
  return rows.map((r) => ({
    ...{ agreementId: r.agreementId as AgreementId, on: r.on as LocalDate, minor: Number(r.minor) },
  }));
}
