// Job plans: the tasks of a kind of visit.
import fp from 'fastify-plugin';
import { eq, inArray } from 'drizzle-orm';
import * as contracts from '#api/setup.ts';
import type { Asked } from '#api/contract.ts';
import type { ClassFormId, JobPlanId, PartId, SkillId } from '#core/ids.ts';
import { checkInclusions } from '#core/upkeep/index.ts';
import { skill } from '../depots/tables.ts';
import type { Tx } from '../platform/database.ts';
import { serve, type House } from '../platform/http.ts';
import { refuse, Refused, stale } from '../platform/refuse.ts';
import { writeNamed } from '../platform/writing.ts';
import { part } from '../stores/tables.ts';
import { classForm, jobPlan, jobPlanIncludes } from './tables.ts';

type Asks = Pick<Asked<typeof contracts.addJobPlan>['body'], 'skillId' | 'alsoSkillIds' | 'formIds' | 'parts'>;

/** What it names is there; what it names twice, or beside the skill that its hours are counted to, is named once. */
async function namedBy(tx: Tx, { skillId, alsoSkillIds, formIds, parts }: Asks) {
  await checkSkills(tx, skillId, alsoSkillIds);
  await checkForms(tx, formIds);
  await checkParts(tx, parts);
  const others = new Set(alsoSkillIds);
  if (skillId !== null) others.delete(skillId);
  return { skillId, alsoSkillIds: [...others], formIds: [...new Set(formIds)], parts };
}

async function checkSkills(tx: Tx, first: SkillId | null, others: readonly SkillId[]): Promise<void> {
  if (first === null && others.length > 0)
    refuse('missing', 'Choose first the skill that its hours are counted to.', 'skillId');
  const ids = first === null ? [] : [first, ...others];
  if (ids.length === 0) return;
  const rows = await tx.db.select({ id: skill.id }).from(skill).where(inArray(skill.id, ids));
  const known = new Set(rows.map((r) => r.id));
  const strange = ids.find((id) => !known.has(id));
  if (strange !== undefined)
    refuse('not-found', 'That skill does not exist; choose another.', strange === first ? 'skillId' : 'alsoSkillIds');
}

async function checkForms(tx: Tx, wanted: readonly ClassFormId[]): Promise<void> {
  if (wanted.length === 0) return;
  const rows = await tx.db
    .select({ id: classForm.id })
    .from(classForm)
    .where(inArray(classForm.id, [...wanted]));
  if (rows.length < new Set(wanted).size)
    refuse('not-found', 'One of these forms does not exist any more; choose again.', 'formIds');
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
        const named = await namedBy(tx, body);
        const { includes, ...columns } = body;
        const [row] = await tx.db
          .insert(jobPlan)
          .values({ ...columns, ...named })
          .$returningId();
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
        const named = await namedBy(tx, body);
        await tx.db
          .update(jobPlan)
          .set({
            ...{ name: body.name, minutes: body.minutes, tasks: body.tasks },
            ...{ crew: body.crew, safetyNote: body.safetyNote, ...named },
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
