// Job plans: the tasks of a kind of visit.
import fp from 'fastify-plugin';
import { eq, inArray } from 'drizzle-orm';
import * as contracts from '#api/setup.ts';
import type { JobPlanId, PartId, SkillId } from '#core/ids.ts';
import { checkInclusions } from '#core/upkeep/index.ts';
import { skill } from '../depots/tables.ts';
import type { Tx } from '../platform/database.ts';
import { serve, type House } from '../platform/http.ts';
import { refuse, Refused, stale } from '../platform/refuse.ts';
import { writeNamed } from '../platform/writing.ts';
import { part } from '../stores/tables.ts';
import { jobPlan, jobPlanIncludes } from './tables.ts';

async function checkSkill(tx: Tx, id: SkillId | null): Promise<void> {
  if (id === null) return;
  const [known] = await tx.db.select({ id: skill.id }).from(skill).where(eq(skill.id, id));
  if (!known) refuse('not-found', 'That skill does not exist; choose another.', 'skillId');
}

async function checkParts(tx: Tx, wanted: readonly { readonly partId: PartId }[]): Promise<void> {
  if (wanted.length === 0) return;
  const ids = wanted.map((w) => w.partId);
  const known = new Set((await tx.db.select({ id: part.id }).from(part).where(inArray(part.id, ids))).map((p) => p.id));
  const at = ids.findIndex((id) => !known.has(id));
  if (at >= 0) refuse('not-found', 'That part does not exist; choose another.', `parts.${at}.partId`);
}

/** Writes which smaller job plans one includes. Refused: ones that do not exist, and a circle. */
async function setIncludes(tx: Tx, largerId: JobPlanId, wanted: readonly JobPlanId[]): Promise<void> {
  const smaller = [...new Set(wanted)];
  // All pairs, under lock: of two who would close a circle together the second sees what the first wrote.
  const pairs = await tx.db
    .select({ larger: jobPlanIncludes.largerId, smaller: jobPlanIncludes.smallerId })
    .from(jobPlanIncludes)
    .for('update');
  const plans = await tx.db.select({ id: jobPlan.id, name: jobPlan.name }).from(jobPlan);
  const names = new Map(plans.map((p) => [p.id, p.name]));
  if (smaller.some((id) => !names.has(id)))
    refuse('not-found', 'One of these job plans does not exist; choose again.', 'includes');
  const own = smaller.map((id) => ({ larger: largerId, smaller: id }));
  const all = [...pairs.filter((p) => p.larger !== largerId), ...own];
  const refusals = checkInclusions(all, (id) => names.get(id) ?? '');
  if (refusals.length > 0) throw new Refused(refusals);
  await tx.db.delete(jobPlanIncludes).where(eq(jobPlanIncludes.largerId, largerId));
  if (own.length > 0)
    await tx.db.insert(jobPlanIncludes).values(own.map((p) => ({ largerId: p.larger, smallerId: p.smaller })));
}

export const jobPlanRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    serve(app, house, contracts.addJobPlan, ({ body, write }) =>
      writeNamed(write, 'job plan', `added ${body.name}`, async (tx) => {
        await checkSkill(tx, body.skillId);
        await checkParts(tx, body.parts);
        const { includes, ...columns } = body;
        const [row] = await tx.db.insert(jobPlan).values(columns).$returningId();
        const id = row?.id as JobPlanId;
        await setIncludes(tx, id, includes);
        return { id };
      }),
    );
    serve(app, house, contracts.changeJobPlan, async ({ params, body, write }) => {
      await writeNamed(write, 'job plan', `changed ${body.name}`, async (tx) => {
        const [row] = await tx.db.select().from(jobPlan).where(eq(jobPlan.id, params.id)).for('update');
        if (!row) refuse('not-found', 'That job plan does not exist.');
        if (row.version !== body.version) stale(row);
        await checkSkill(tx, body.skillId);
        await checkParts(tx, body.parts);
        await tx.db
          .update(jobPlan)
          .set({
            ...{ name: body.name, minutes: body.minutes, tasks: body.tasks, skillId: body.skillId },
            ...{ crew: body.crew, safetyNote: body.safetyNote, parts: body.parts },
            version: row.version + 1,
          })
          .where(eq(jobPlan.id, params.id));
        await setIncludes(tx, params.id, body.includes);
        return { id: params.id };
      });
      return { done: true as const };
    });
  },
  { name: 'stavok-job-plan-routes', dependencies: ['stavok-authentication'] },
);
