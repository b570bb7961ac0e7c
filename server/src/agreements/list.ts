// The list of agreements: filtered, ordered, a page at a time.
import { and, count, eq, inArray, sql } from 'drizzle-orm';
import type { AGREEMENT_SORTS } from '#api/agreements/index.ts';
import { type AgreementStage } from '#core/entitlement/index.ts';
import type { CustomerId } from '#core/ids.ts';
import { type Instant } from '#core/time/index.ts';
import type { Db } from '../platform/database.ts';
import { customer } from '../customers/tables.ts';
import { agreement, coverageLine } from './tables.ts';
import { schedule } from '../upkeep/tables.ts';
import { keyset } from '../platform/keyset.ts';

export type AgreementSort = (typeof AGREEMENT_SORTS)[number];
const SORTED_BY = {
  number: agreement.number,
  name: agreement.name,
  customer: customer.name,
  // By the alphabet of its word, not by its place in the column’s list.
  stage: sql`concat(${agreement.stage})`,
  from: agreement.termFrom,
  ends: agreement.termTo,
  notice: agreement.noticeBy,
} as const;

export async function listAgreements(
  db: Db,
  filter: { stage?: AgreementStage; customer?: CustomerId; sort?: AgreementSort; down?: '1' },
  after: string | undefined,
  limit: number,
  now: Instant,
) {
  const wanted = and(
    filter.stage ? eq(agreement.stage, filter.stage) : undefined,
    filter.customer ? eq(agreement.customerId, filter.customer) : undefined,
  );
  // The newest first, unless somebody asks for another order.
  const sort = filter.sort ?? 'from';
  const by = SORTED_BY[sort];
  const down = filter.sort ? filter.down !== undefined : true;
  const { behind, order, markOf } = keyset(by, agreement.id, { down, after, hasEmpty: true });
  const [[counted], rows] = await Promise.all([
    db.select({ total: count() }).from(agreement).where(wanted),
    db
      .select({ agreement, customer: customer.name, sortedBy: sql<string | null>`${by}` })
      .from(agreement)
      .innerJoin(customer, eq(customer.id, agreement.customerId))
      .where(and(wanted, behind))
      .orderBy(...order)
      .limit(limit + 1),
  ]);
  const page = rows.slice(0, limit);
  const ids = page.map((r) => r.agreement.id);
  const [lines, schedules] =
    ids.length === 0
      ? [[], []]
      : await Promise.all([
          db
            .select({ id: coverageLine.agreementId, n: count() })
            .from(coverageLine)
            .where(inArray(coverageLine.agreementId, ids))
            .groupBy(coverageLine.agreementId),
          db
            .select({ id: schedule.agreementId, n: count() })
            .from(schedule)
            .where(inArray(schedule.agreementId, ids))
            .groupBy(schedule.agreementId),
        ]);
  const last = page.at(-1);
  return {
    items: page.map(({ agreement: row, customer: name }) => ({
      id: row.id,
      number: row.number,
      name: row.name,
      customer: { id: row.customerId, name },
      stage: row.stage,
      from: row.termFrom,
      to: row.termTo,
      noticeBy: row.noticeBy,
      lines: lines.find((l) => l.id === row.id)?.n ?? 0,
      schedules: schedules.find((s) => s.id === row.id)?.n ?? 0,
    })),
    next: rows.length > limit && last ? markOf(last.sortedBy, last.agreement.id) : null,
    total: counted?.total ?? 0,
    now,
  };
}
