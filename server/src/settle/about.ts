// What documents are about, in words: an order or agreement by its number, or all of a month.
import { inArray } from 'drizzle-orm';
import { orderNumber } from '#api/shapes.ts';
import type { AgreementId } from '#core/ids.ts';
import { agreement } from '../agreements/tables.ts';
import type { Db } from '../platform/database.ts';

/** As core brings lines together: "order 7", "order 7 2026-11-03 1" of its first appointment, "agreement 5", "month 2026-11". */
export async function aboutWords(db: Db, all: readonly string[]): Promise<(about: string) => string> {
  const ids = [
    ...new Set(all.filter((a) => a.startsWith('agreement ')).map((a) => Number(a.slice(10)) as AgreementId)),
  ];
  const rows =
    ids.length === 0
      ? []
      : await db
          .select({ id: agreement.id, number: agreement.number })
          .from(agreement)
          .where(inArray(agreement.id, ids));
  const numbers = new Map(rows.map((r) => [r.id as number, r.number]));
  return (about) => {
    const [what, of = '', on] = about.split(' ');
    if (what === 'order') return `${orderNumber(Number(of))}${on === undefined ? '' : `, appointment of ${on}`}`;
    return what === 'month' ? `all of ${of}` : (numbers.get(Number(of)) ?? about);
  };
}
