// Job plans as orders keep them: with the names of their skill and parts.
import { eq, inArray } from 'drizzle-orm';
import type { JobPlanId } from '#core/ids.ts';
import type { KeptPlan, PlannedPart } from '#core/orders/index.ts';
import { skill } from '../depots/tables.ts';
import type { Db } from '../platform/database.ts';
import { part } from '../stores/tables.ts';
import { jobPlan, type PlannedTask } from './tables.ts';

export type PlanToDo = {
  readonly id: JobPlanId;
  readonly name: string;
  readonly minutes: number;
  readonly tasks: PlannedTask[];
  readonly kept: KeptPlan;
};

/** All job plans, or some; there are as many as kinds of work, not as machines. */
export async function plansToDo(db: Db, ids: readonly JobPlanId[] | 'all' = 'all'): Promise<Map<JobPlanId, PlanToDo>> {
  const rows = await db
    .select({ plan: jobPlan, skill: skill.name })
    .from(jobPlan)
    .leftJoin(skill, eq(skill.id, jobPlan.skillId))
    .where(ids === 'all' ? undefined : inArray(jobPlan.id, [...ids]));
  const wanted = [...new Set(rows.flatMap((r) => (r.plan.parts ?? []).map((p) => p.partId)))];
  const parts = wanted.length === 0 ? [] : await db.select().from(part).where(inArray(part.id, wanted));
  const known = new Map(parts.map((p) => [p.id, p]));
  return new Map(
    rows.map(({ plan: { id, name, minutes, tasks, version, crew, safetyNote, parts: planned }, skill: needs }) => [
      id,
      {
        ...{ id, name, minutes, tasks },
        kept: {
          ...{ name, version, minutes, crew, skill: needs, safety: safetyNote },
          parts: (planned ?? []).flatMap(({ partId, thousandths }): PlannedPart[] => {
            const p = known.get(partId);
            return p ? [{ partId, number: p.number, name: p.name, unit: p.unit, thousandths }] : [];
          }),
        },
      },
    ]),
  );
}
