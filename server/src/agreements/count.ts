// Agreements’ number: those in force whose notice is due within sixty days.
import { and, count, eq, gte, lte } from 'drizzle-orm';
import { addDays, type LocalDate } from '#core/time/index.ts';
import type { Db } from '../platform/database.ts';
import { agreement } from './tables.ts';

export async function countAgreements(db: Db, { today }: { readonly today: LocalDate }): Promise<number> {
  const [due] = await db
    .select({ n: count() })
    .from(agreement)
    .where(
      and(eq(agreement.stage, 'in force'), gte(agreement.noticeBy, today), lte(agreement.noticeBy, addDays(today, 60))),
    );
  return due?.n ?? 0;
}
