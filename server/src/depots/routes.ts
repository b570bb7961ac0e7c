// Depots with what their people can do in a week, and skills.
import fp from 'fastify-plugin';
import { asc, eq } from 'drizzle-orm';
import type { Asked } from '#api/contract.ts';
import * as contracts from '#api/depots.ts';
import type { DepotId } from '#core/ids.ts';
import { jobPlan } from '../catalogue/tables.ts';
import type { Tx } from '../platform/database.ts';
import { serve, type House } from '../platform/http.ts';
import { refuse, stale } from '../platform/refuse.ts';
import { writeNamed } from '../platform/writing.ts';
import { depot, depotCapacity, skill } from './tables.ts';

type DepotBody = Asked<typeof contracts.addDepot>['body'];

async function setCapacity(tx: Tx, depotId: DepotId, capacity: DepotBody['capacity']): Promise<void> {
  const known = new Set((await tx.db.select({ id: skill.id }).from(skill)).map((s) => s.id));
  const wanted = new Map(capacity.map((c) => [c.skillId, c.weeklyMinutes]));
  if ([...wanted.keys()].some((id) => !known.has(id)))
    refuse('not-found', 'That skill does not exist; choose another.', 'capacity');
  await tx.db.delete(depotCapacity).where(eq(depotCapacity.depotId, depotId));
  const rows = [...wanted].map(([skillId, weeklyMinutes]) => ({ depotId, skillId, weeklyMinutes }));
  if (rows.length > 0) await tx.db.insert(depotCapacity).values(rows);
}

function positionOf({ latitude, longitude }: DepotBody) {
  if ((latitude === null) !== (longitude === null))
    refuse('missing', 'Give both latitude and longitude, or neither.', latitude === null ? 'latitude' : 'longitude');
  return { latitude, longitude };
}

export const depotRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { db } = house.database;
    serve(app, house, contracts.readDepots, async () => {
      const [depots, skills, capacity, plans] = await Promise.all([
        db.select().from(depot).orderBy(asc(depot.name)).limit(500),
        db.select().from(skill).orderBy(asc(skill.name)).limit(500),
        db.select().from(depotCapacity),
        db
          .select({ skillId: jobPlan.skillId, also: jobPlan.alsoSkillIds, name: jobPlan.name })
          .from(jobPlan)
          .orderBy(asc(jobPlan.name)),
      ]);
      return {
        depots: depots.map((d) => ({
          ...d,
          capacity: capacity
            .filter((c) => c.depotId === d.id)
            .map(({ skillId, weeklyMinutes }) => ({ skillId, weeklyMinutes })),
        })),
        skills: skills.map((s) => ({
          ...s,
          jobPlans: plans.filter((p) => p.skillId === s.id || p.also?.includes(s.id)).map((p) => p.name),
        })),
      };
    });
    serve(app, house, contracts.addSkill, ({ body, write }) =>
      writeNamed(write, 'skill', `added ${body.name}`, async (tx) => {
        const [row] = await tx.db.insert(skill).values(body).$returningId();
        return { id: row?.id as number };
      }),
    );
    serve(app, house, contracts.changeSkill, async ({ params: { id }, body, write }) => {
      await writeNamed(write, 'skill', `changed to ${body.name}`, async (tx) => {
        const [row] = await tx.db.select().from(skill).where(eq(skill.id, id)).for('update');
        if (!row) refuse('not-found', 'That skill does not exist.');
        if (row.version !== body.version) stale(row);
        await tx.db
          .update(skill)
          .set({ name: body.name, version: row.version + 1 })
          .where(eq(skill.id, id));
        return { id };
      });
      return { done: true as const };
    });
    serve(app, house, contracts.addDepot, ({ body, write }) =>
      writeNamed(write, 'depot', `added ${body.name}`, async (tx) => {
        const [row] = await tx.db
          .insert(depot)
          .values({ name: body.name, planRules: body.planRules, ...positionOf(body) })
          .$returningId();
        const id = row?.id as DepotId;
        await setCapacity(tx, id, body.capacity);
        return { id };
      }),
    );
    serve(app, house, contracts.changeDepot, async ({ params: { id }, body, write }) => {
      await writeNamed(write, 'depot', `changed ${body.name}`, async (tx) => {
        const [row] = await tx.db.select().from(depot).where(eq(depot.id, id)).for('update');
        if (!row) refuse('not-found', 'That depot does not exist.');
        if (row.version !== body.version) stale(row);
        await tx.db
          .update(depot)
          .set({ name: body.name, planRules: body.planRules, ...positionOf(body), version: row.version + 1 })
          .where(eq(depot.id, id));
        await setCapacity(tx, id, body.capacity);
        return { id };
      });
      return { done: true as const };
    });
  },
  { name: 'stavok-depot-routes', dependencies: ['stavok-authentication'] },
);
