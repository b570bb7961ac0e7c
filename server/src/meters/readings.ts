// Writing one reading of a meter, typed or answered on a form: measured against those held, a lower one never guessed at.
import { and, desc, eq } from 'drizzle-orm';
import type { MeterId, PersonId } from '#core/ids.ts';
import { planReading, type LowerMeans, type MeterReading } from '#core/meters.ts';
import { goesOut } from '#core/people.ts';
import type { Decided } from '#core/refusal.ts';
import type { Instant } from '#core/time/index.ts';
import type { Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { accept, refuse } from '../platform/refuse.ts';
import type { Told } from '../platform/writing.ts';
import { meter, meterReading } from './tables.ts';

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

/** What somebody read off a meter. Refused: a meter that is not, and what core refuses. */
export async function readMeterIn(
  tx: Tx,
  told: Told,
  who: Person,
  id: MeterId,
  reading: MeterReading & { readonly lowerMeans: LowerMeans | null },
  now: Instant,
): Promise<void> {
  const [row] = await tx.db.select().from(meter).where(eq(meter.id, id)).for('update');
  if (!row) refuse('not-found', 'That meter does not exist.');
  const { lowerMeans } = reading;
  const by = { source: goesOut(who.role) ? 'field' : 'typed', personId: who.id, lowerMeans } as const;
  const written = accept(await writeReading(tx, row, reading, by, now));
  told({
    ...{ subject: 'asset', id: row.assetId },
    text: `${row.name} read ${reading.value} ${row.unit}${written === 'append' ? '' : `, ${lowerMeans}`}`,
  });
}
