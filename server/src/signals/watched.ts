// Which rules watch which machines: of those of one name the nearest.
import { and, asc, inArray, isNull, or } from 'drizzle-orm';
import type { AssetState } from '#core/assets/index.ts';
import type { AssetClassId, AssetId } from '#core/ids.ts';
import { nearestRules } from '#core/signals/index.ts';
import type { Db } from '../platform/database.ts';
import { alertRule } from './tables.ts';

export type Rule = typeof alertRule.$inferSelect;
export type WatchedMachine = {
  readonly id: AssetId;
  readonly classId: AssetClassId;
  readonly model: string;
  readonly state: AssetState;
};

/** The rules of some machines, by the machine; one question for all of them. Nothing is watched of what is retired. */
export async function rulesOf(db: Db, machines: readonly WatchedMachine[]): Promise<(id: AssetId) => Rule[]> {
  if (machines.length === 0) return () => [];
  const rules = await db
    .select()
    .from(alertRule)
    .where(
      and(
        inArray(alertRule.assetClassId, [...new Set(machines.map((m) => m.classId))]),
        // Those of single machines: of these only.
        or(
          isNull(alertRule.assetId),
          inArray(
            alertRule.assetId,
            machines.map((m) => m.id),
          ),
        ),
      ),
    )
    .orderBy(asc(alertRule.id));
  const known = new Map(machines.map((m) => [m.id, m.state === 'retired' ? [] : nearestRules(rules, m)]));
  return (id) => known.get(id) ?? [];
}
