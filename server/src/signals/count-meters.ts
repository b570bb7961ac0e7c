// Meters that a device counts: at most one reading an hour; a lower count is never guessed at, but told in the asset's life.
import { and, desc, eq, gte, inArray, like } from 'drizzle-orm';
import type { AssetId } from '#core/ids.ts';
import { planReading } from '#core/meters.ts';
import { HOUR, type Instant } from '#core/time/index.ts';
import type { Tx } from '../platform/database.ts';
import { assetEvent } from '../assets/tables.ts';
import { meter, meterReading } from '../meters/tables.ts';

type Sample = { readonly channel: string; readonly at: Instant; readonly value: unknown };

export async function countMeters(tx: Tx, assetId: AssetId, samples: readonly Sample[], now: Instant): Promise<void> {
  const numbers = samples.filter((s): s is Sample & { value: number } => typeof s.value === 'number');
  if (numbers.length === 0) return;
  const meters = await tx.db
    .select()
    .from(meter)
    .where(and(eq(meter.assetId, assetId), inArray(meter.channel, [...new Set(numbers.map((s) => s.channel))])));
  for (const counted of meters) {
    const [newest] = numbers.filter((s) => s.channel === counted.channel).sort((a, b) => b.at - a.at);
    const [last] = await tx.db
      .select()
      .from(meterReading)
      .where(and(eq(meterReading.meterId, counted.id), eq(meterReading.struckOut, false)))
      .orderBy(desc(meterReading.at), desc(meterReading.id))
      .limit(1)
      .for('update');
    if (!newest || (last && newest.at - last.at < HOUR)) continue;
    const { at, value } = newest;
    const plan = planReading(last ? [last] : [], { at, value }, now, null);
    if (plan.ok) {
      await tx.db.insert(meterReading).values({ meterId: counted.id, at, value, source: 'signal' });
      continue;
    }
    if (!last || value >= last.value) continue;
    const said = `${counted.name}: its device counts `;
    const [told] = await tx.db
      .select({ id: assetEvent.id })
      .from(assetEvent)
      .where(and(eq(assetEvent.assetId, assetId), gte(assetEvent.at, last.at), like(assetEvent.text, `${said}%`)))
      .limit(1);
    if (!told)
      await tx.db.insert(assetEvent).values({
        assetId,
        kind: 'changed',
        at,
        recordedAt: now,
        text: `${said}${value} ${counted.unit}, less than the last reading ${last.value}: say whether the meter was replaced or reset.`,
      });
  }
}
