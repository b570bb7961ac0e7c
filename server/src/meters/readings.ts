// Writing one reading of a meter, typed or answered on a form: measured against those held, a lower one never guessed at.
import { and, desc, eq } from 'drizzle-orm';
import type { PersonId } from '#core/ids.ts';
import { planReading, type LowerMeans, type MeterReading } from '#core/meters.ts';
import type { Decided } from '#core/refusal.ts';
import type { Instant } from '#core/time/index.ts';
import type { Tx } from '../platform/database.ts';
import { meterReading, type meter } from './tables.ts';

type Meter = typeof meter.$inferSelect;

/** Writes the reading, or gives the core's refusal. The meter's row must be locked by the caller. */
export async function writeReading(
  tx: Tx,
  { id: meterId }: Pick<Meter, 'id'>,
  reading: MeterReading,
  by: { source: 'typed' | 'field'; personId: PersonId | null; lowerMeans: LowerMeans | null },
  now: Instant,
): Promise<Decided<'append' | 'begin anew' | 'strike last'>> {
  const held = (
    await tx.db
      .select()
      .from(meterReading)
      .where(and(eq(meterReading.meterId, meterId), eq(meterReading.struckOut, false)))
      .orderBy(desc(meterReading.at), desc(meterReading.id))
      .limit(2)
  )
    // A counter that began anew is not measured against what was before.
    .filter((_, i, newest) => i === 0 || newest[0]?.anew === null)
    .reverse();
  const planned = planReading(held, reading, now, by.lowerMeans);
  if (!planned.ok) return planned;
  const plan = planned.value;
  const last = held[held.length - 1];
  if (plan.kind === 'strike last' && last)
    await tx.db.update(meterReading).set({ struckOut: true }).where(eq(meterReading.id, last.id));
  await tx.db.insert(meterReading).values({
    meterId,
    at: reading.at,
    value: reading.value,
    source: by.source,
    anew: plan.kind === 'begin anew' ? plan.because : plan.kind === 'strike last' ? (last?.anew ?? null) : null,
    personId: by.personId,
  });
  return { ok: true, value: plan.kind };
}
