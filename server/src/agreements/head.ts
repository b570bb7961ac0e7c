// What the head of an agreement says: what holds today, and from which days what else will.
import { asc, eq } from 'drizzle-orm';
import { holdsOn } from '#core/entitlement/index.ts';
import type { LocalDate } from '#core/time/index.ts';
import type { LineReach } from '../entitlement/index.ts';
import type { Db } from '../platform/database.ts';
import { agreementAmendment } from './tables.ts';
import { headerWords } from './amend.ts';
import type { AgreementRow } from './lines.ts';

type Change = { readonly name: string; readonly before: string; readonly after: string };
export type Head = {
  /** By name: term, price, notice … as they hold on the day; and how many machines are covered. */
  readonly today: Readonly<Record<string, string>>;
  readonly machines: number;
  readonly coming: readonly { readonly from: LocalDate; readonly changes: readonly Change[] }[];
};

/** Machines that the lines holding on a day reach. */
const machinesOn = (reach: readonly LineReach[], on: LocalDate): number =>
  new Set(
    reach.flatMap(({ line, assetIds }) => (holdsOn({ from: line.termFrom, to: line.termTo }, on) ? assetIds : [])),
  ).size;

function changesBetween(a: Readonly<Record<string, string>>, b: Readonly<Record<string, string>>): Change[] {
  return [...new Set([...Object.keys(a), ...Object.keys(b)])].flatMap((name) =>
    a[name] === b[name] ? [] : [{ name, before: a[name] ?? 'none', after: b[name] ?? 'none' }],
  );
}

export async function headOn(db: Db, row: AgreementRow, reach: readonly LineReach[], on: LocalDate): Promise<Head> {
  const newest = await headerWords(db, row);
  const versions = await db
    .select({ from: agreementAmendment.holdsFrom, header: agreementAmendment.header })
    .from(agreementAmendment)
    .where(eq(agreementAmendment.agreementId, row.id))
    .orderBy(asc(agreementAmendment.number));
  // Before its term an agreement is told as it will begin.
  const day = on > row.termFrom ? on : row.termFrom;
  const held = versions.filter((v) => v.from <= day).at(-1)?.header;
  const today = versions.length === 0 ? newest : (held ?? newest);
  let before = { header: today, machines: machinesOn(reach, day) };
  const coming = versions
    .filter((v) => v.from > day)
    .map(({ from, header }) => {
      const after = { header, machines: machinesOn(reach, from) };
      const changes = changesBetween(before.header, after.header);
      if (before.machines !== after.machines)
        changes.push({ name: 'machines', before: String(before.machines), after: String(after.machines) });
      before = after;
      return { from, changes };
    });
  return { today, machines: machinesOn(reach, day), coming };
}
