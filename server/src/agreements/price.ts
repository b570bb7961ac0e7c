// The price of an agreement over time: what is billed for which period, with amendments, broken periods and indexation.
import { and, asc, eq, gte, lte } from 'drizzle-orm';
import { billedPeriods, byMonth, feeOver, type PricedStretch } from '#core/agreements/index.ts';
import type { AgreementId } from '#core/ids.ts';
import { addDays, addMonths, type LocalDate } from '#core/time/index.ts';
import { everHeld, reachOf } from '../entitlement/index.ts';
import type { Db } from '../platform/database.ts';
import { refuse } from '../platform/refuse.ts';
import { agreement, agreementAmendment } from './tables.ts';
import { visit } from '../upkeep/tables.ts';
import type { AgreementRow } from './lines.ts';

/** The price of the whole from amendment to amendment. */
async function wholeStretches(db: Db, row: AgreementRow): Promise<PricedStretch[]> {
  const versions = await db
    .select({ from: agreementAmendment.holdsFrom, minor: agreementAmendment.priceMinor })
    .from(agreementAmendment)
    .where(eq(agreementAmendment.agreementId, row.id))
    .orderBy(asc(agreementAmendment.number));
  if (versions.length === 0) versions.push({ from: row.termFrom, minor: row.priceMinor });
  return versions.flatMap(({ from, minor }, i): PricedStretch[] => {
    const next = versions[i + 1]?.from;
    const to = next === undefined ? row.termTo : addDays(next, -1);
    return minor === null || (to !== null && to < from)
      ? []
      : [{ label: 'the agreement as a whole', term: { from, to }, minor }];
  });
}

async function lineStretches(db: Db, row: AgreementRow): Promise<PricedStretch[]> {
  return (await reachOf(db, row.id, row.customerId, everHeld)).flatMap(({ line, label }) =>
    line.priceMinor === null ? [] : [{ label, term: { from: line.termFrom, to: line.termTo }, minor: line.priceMinor }],
  );
}

/** What is billed for the periods that touch [from, to]. */
async function billed(db: Db, row: AgreementRow, from: LocalDate, to: LocalDate) {
  const visits =
    row.billingPer === 'visit'
      ? await db
          .select({ due: visit.due })
          .from(visit)
          .where(
            and(eq(visit.agreementId, row.id), eq(visit.state, 'raised'), gte(visit.due, from), lte(visit.due, to)),
          )
          .orderBy(asc(visit.due), asc(visit.id))
      : [];
  return billedPeriods(
    { per: row.billingPer, timing: row.billingTiming, indexation: row.indexation },
    { from: row.termFrom, to: row.termTo },
    [...(await wholeStretches(db, row)), ...(await lineStretches(db, row))],
    from,
    to,
    visits.map((v) => v.due),
  );
}

/** The fee for the days from `from` to `to`, whenever it falls due. */
export async function feeOf(db: Db, row: AgreementRow, from: LocalDate, to: LocalDate): Promise<number> {
  return feeOver(await billed(db, row, from, to), from, to);
}

export async function readPrice(db: Db, id: AgreementId, from: LocalDate, months: number) {
  const [row] = await db.select().from(agreement).where(eq(agreement.id, id));
  if (!row) refuse('not-found', 'That agreement does not exist.');
  const to = addDays(addMonths(from, months), -1);
  const periods = (await billed(db, row, from, to)).filter((p) => p.dueOn >= from && p.dueOn <= to);
  const months_ = byMonth(periods);
  return {
    currency: row.currency,
    periods: periods.map((p) => ({ ...p, parts: [...p.parts] })),
    months: months_,
    total: months_.reduce((sum, m) => sum + m.minor, 0),
  };
}
