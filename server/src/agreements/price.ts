// The price of an agreement over time: what is billed for which period, with amendments, broken periods and indexation.
import { and, asc, eq, inArray, lte } from 'drizzle-orm';
import { billedPeriods, byMonth, feeOver, type PricedStretch } from '#core/agreements/index.ts';
import type { AgreementId } from '#core/ids.ts';
import { addDays, addMonths, type LocalDate } from '#core/time/index.ts';
import { everHeld, namedLines } from '../entitlement/index.ts';
import type { Db } from '../platform/database.ts';
import { refuse } from '../platform/refuse.ts';
import { agreement, agreementAmendment } from './tables.ts';
import { visit } from '../upkeep/tables.ts';
import type { AgreementRow } from './lines.ts';

type Priced = Pick<AgreementRow, 'id' | 'customerId' | 'termFrom' | 'termTo' | 'priceMinor' | 'billingPer'>;
type Version = { readonly from: LocalDate; readonly minor: number | null };

/** The price of the whole from amendment to amendment. */
function wholeStretches(row: Priced, known: readonly Version[]): PricedStretch[] {
  const versions = known.length === 0 ? [{ from: row.termFrom, minor: row.priceMinor }] : known;
  return versions.flatMap(({ from, minor }, i): PricedStretch[] => {
    const next = versions[i + 1]?.from;
    const to = next === undefined ? row.termTo : addDays(next, -1);
    return minor === null || (to !== null && to < from)
      ? []
      : [{ key: 'whole', label: 'the agreement as a whole', term: { from, to }, minor }];
  });
}

export type Prices = { readonly stretches: readonly PricedStretch[]; readonly visits: readonly LocalDate[] };

/** What agreements cost over time, of many at a time; visits up to a day, of those that are paid by the visit. */
export async function pricesOf(db: Db, rows: readonly Priced[], to: LocalDate): Promise<(id: AgreementId) => Prices> {
  const ids = rows.map((r) => r.id);
  const byVisit = rows.filter((r) => r.billingPer === 'visit').map((r) => r.id);
  const [versions, lines, visits] = await Promise.all([
    db
      .select({
        ...{ id: agreementAmendment.agreementId, from: agreementAmendment.holdsFrom },
        minor: agreementAmendment.priceMinor,
      })
      .from(agreementAmendment)
      .where(inArray(agreementAmendment.agreementId, ids))
      .orderBy(asc(agreementAmendment.agreementId), asc(agreementAmendment.number)),
    namedLines(db, ids, true),
    byVisit.length === 0
      ? []
      : db
          .select({ id: visit.agreementId, due: visit.due })
          .from(visit)
          .where(and(inArray(visit.agreementId, byVisit), eq(visit.state, 'raised'), lte(visit.due, to)))
          .orderBy(asc(visit.due), asc(visit.id)),
  ]);
  const prices = new Map(
    rows.map((row): [AgreementId, Prices] => [
      row.id,
      {
        stretches: [
          ...wholeStretches(
            row,
            versions.filter((v) => v.id === row.id),
          ),
          ...lines.flatMap(({ line, label }): PricedStretch[] =>
            line.agreementId !== row.id || line.priceMinor === null || !everHeld(line)
              ? []
              : [
                  {
                    ...{ key: `line ${line.rootId ?? line.id}`, label, minor: line.priceMinor },
                    term: { from: line.termFrom, to: line.termTo },
                  },
                ],
          ),
        ],
        visits: visits.flatMap((v) => (v.id === row.id ? [v.due] : [])),
      },
    ]),
  );
  return (id) => prices.get(id) ?? { stretches: [], visits: [] };
}

/** What is billed for the periods that touch [from, to]. */
async function billed(db: Db, row: AgreementRow, from: LocalDate, to: LocalDate) {
  const { stretches, visits } = (await pricesOf(db, [row], to))(row.id);
  return billedPeriods(
    { per: row.billingPer, timing: row.billingTiming, indexation: row.indexation },
    { from: row.termFrom, to: row.termTo },
    stretches,
    from,
    to,
    visits,
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
