// Job plans: the tasks of a kind of visit.
import fp from 'fastify-plugin';
import { eq } from 'drizzle-orm';
import * as contracts from '#api/setup.ts';
import type { SkillId } from '#core/ids.ts';
import { skill } from '../depots/tables.ts';
import type { Tx } from '../platform/database.ts';
import { serve, type House } from '../platform/http.ts';
import { refuse, stale } from '../platform/refuse.ts';
import { writeNamed } from '../platform/writing.ts';
import { jobPlan } from './tables.ts';

async function checkSkill(tx: Tx, id: SkillId | null): Promise<void> {
  if (id === null) return;
  const [known] = await tx.db.select({ id: skill.id }).from(skill).where(eq(skill.id, id));
  if (!known) refuse('not-found', 'That skill does not exist; choose another.', 'skillId');
}

export const jobPlanRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    serve(app, house, contracts.addJobPlan, ({ body, write }) =>
      writeNamed(write, 'job plan', `added ${body.name}`, async (tx) => {
        await checkSkill(tx, body.skillId);
        const [row] = await tx.db.insert(jobPlan).values(body).$returningId();
        return { id: row?.id as number };
      }),
    );
    serve(app, house, contracts.changeJobPlan, async ({ params, body, write }) => {
      await writeNamed(write, 'job plan', `changed ${body.name}`, async (tx) => {
        const [row] = await tx.db.select().from(jobPlan).where(eq(jobPlan.id, params.id)).for('update');
        if (!row) refuse('not-found', 'That job plan does not exist.');
        if (row.version !== body.version) stale(row);
        await checkSkill(tx, body.skillId);
        await tx.db
          .update(jobPlan)
          .set({
            ...{ name: body.name, minutes: body.minutes, tasks: body.tasks, skillId: body.skillId },
            version: row.version + 1,
          })
          .where(eq(jobPlan.id, params.id));
        return { id: params.id };
      });
      return { done: true as const };
    });
  },
  { name: 'stavok-job-plan-routes', dependencies: ['stavok-authentication'] },
);
