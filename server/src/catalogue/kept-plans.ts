// Job plans as orders keep them: with the names of their skills and parts, and the forms they ask for.
import { inArray } from 'drizzle-orm';
import type { JobPlanId, SkillId } from '#core/ids.ts';
import type { KeptPlan, PlannedPart } from '#core/orders/index.ts';
import { skill } from '../depots/tables.ts';
import type { Db } from '../platform/database.ts';
import { part } from '../stores/tables.ts';
import { classForm, jobPlan, type PlannedTask } from './tables.ts';

export type PlanToDo = {
  readonly id: JobPlanId;
  readonly name: string;
  readonly minutes: number;
  readonly tasks: PlannedTask[];
  readonly kept: KeptPlan;
};

/** Which skills it needs, the one that its hours are counted to in front. */
const skillsOf = ({
  skillId,
  alsoSkillIds,
}: Pick<typeof jobPlan.$inferSelect, 'skillId' | 'alsoSkillIds'>): SkillId[] =>
  skillId === null ? [] : [skillId, ...(alsoSkillIds ?? [])];

/** All job plans, or some; there are as many as kinds of work, not as machines. */
export async function plansToDo(db: Db, ids: readonly JobPlanId[] | 'all' = 'all'): Promise<Map<JobPlanId, PlanToDo>> {
  const plans = await db
    .select()
    .from(jobPlan)
    .where(ids === 'all' ? undefined : inArray(jobPlan.id, [...ids]));
  const wanted = [...new Set(plans.flatMap((p) => (p.parts ?? []).map(({ partId }) => partId)))];
  const parts = wanted.length === 0 ? [] : await db.select().from(part).where(inArray(part.id, wanted));
  const known = new Map(parts.map((p) => [p.id, p]));
  const skillIds = [...new Set(plans.flatMap(skillsOf))];
  const skills = skillIds.length === 0 ? [] : await db.select().from(skill).where(inArray(skill.id, skillIds));
  const formIds = [...new Set(plans.flatMap((p) => p.formIds ?? []))];
  const forms = new Set(
    (formIds.length === 0
      ? []
      : await db.select({ id: classForm.id }).from(classForm).where(inArray(classForm.id, formIds))
    ).map((f) => f.id),
  );
  return new Map(
    plans.map((row) => {
      const { id, name, minutes, tasks, version, crew, safetyNote, parts: planned } = row;
      return [
        id,
        {
          ...{ id, name, minutes, tasks },
          kept: {
            ...{ name, version, minutes, crew, safety: safetyNote },
            skills: skillsOf(row).flatMap((s) => skills.find((k) => k.id === s)?.name ?? []),
            skillIds: skillsOf(row),
            formIds: (row.formIds ?? []).filter((f) => forms.has(f)),
            parts: (planned ?? []).flatMap(({ partId, thousandths }): PlannedPart[] => {
              const p = known.get(partId);
              return p ? [{ partId, number: p.number, name: p.name, unit: p.unit, thousandths }] : [];
            }),
          },
        },
      ];
    }),
  );
}
