// What open orders of the demo need: the parts of their job plans, and of repairs what such a fault takes. Nothing is drawn by chance.
import { and, asc, eq, inArray } from 'drizzle-orm';
import type { PartId } from '#core/ids.ts';
import { OPEN_STAGES } from '#core/orders/index.ts';
import type { Instant } from '#core/time/index.ts';
import type { Database, Tx } from '#server/platform/database.ts';
import { askForParts, coverNeedsOf, type NewNeed } from '#server/stores/index.ts';
import { jobPlan, orderLine, part, schedule, visit, workOrder } from '#server/tables.ts';

type Asked = readonly (readonly [number: string, thousandths: number])[];

const OF_PLAN: Readonly<Record<string, Asked>> = {
  'Ultra-low freezer yearly': [
    ['TN-GS-720', 1000],
    ['TN-BT-12', 1000],
  ],
  'Steriliser care, by cycles': [
    ['ST-AF-02', 1000],
    ['ST-SL-150', 1000],
  ],
  'Washer-disinfector half-year': [['WD-DH-03', 2000]],
  'Cabinet certification, yearly': [['BS-HF-14', 1000]],
  'Centrifuge care, by runs': [['CF-DB-09', 1000]],
  'Water unit check': [['WP-FC-10', 2000]],
};

/** By what the caller said of the fault. */
const OF_REPAIR: Readonly<Record<string, Asked>> = {
  'Fan noisy': [['PL-FN-410', 1000]],
  'Vacuum not reached': [['ST-VP-20', 1000]],
  'Door does not lock': [['ST-LM-08', 1000]],
  'Compressor relay clicks': [['TN-SR-110', 1000]],
  'Dosing alarm': [['WD-DH-03', 2500]],
  'Imbalance error': [['CF-DB-09', 1000]],
  'Controller shows a probe fault': [['TN-PR-400', 1000]],
  'Stops in the drying phase': [['ST-AF-02', 2000]],
  'Gas alarm': [['IN-SN-CO2', 3000]],
  'Conductivity too high': [['WP-MB-80', 2000]],
};

/** The job plans know their parts, for whatever is raised from now on. */
export async function writePlanParts(tx: Tx): Promise<void> {
  const idOf = await partIds(tx);
  for (const [name, asked] of Object.entries(OF_PLAN)) {
    const parts = asked.map(([number, thousandths]) => ({ partId: idOf(number), thousandths }));
    await tx.db.update(jobPlan).set({ parts }).where(eq(jobPlan.name, name));
  }
}

async function partIds({ db }: Pick<Tx, 'db'>): Promise<(number: string) => PartId> {
  const ids = new Map((await db.select({ id: part.id, number: part.number }).from(part)).map((p) => [p.number, p.id]));
  return (number) => {
    const id = ids.get(number);
    if (id === undefined) throw new Error(`The demo's parts list has no ${number}.`);
    return id;
  };
}

export async function writeNeeds(database: Database, now: Instant): Promise<void> {
  await database.transact(async (tx) => {
    const idOf = await partIds(tx);
    const lines = await tx.db
      .select({
        ...{ orderId: workOrder.id, lineId: orderLine.id, kind: workOrder.kind, title: workOrder.title },
        plan: jobPlan.name,
      })
      .from(workOrder)
      .innerJoin(orderLine, eq(orderLine.orderId, workOrder.id))
      .leftJoin(visit, eq(visit.id, orderLine.visitId))
      .leftJoin(schedule, eq(schedule.id, visit.scheduleId))
      .leftJoin(jobPlan, eq(jobPlan.id, schedule.jobPlanId))
      .where(and(inArray(workOrder.stage, [...OPEN_STAGES]), inArray(workOrder.kind, ['preventive', 'repair'])))
      .orderBy(asc(orderLine.id));
    const needs = lines.flatMap(({ orderId, lineId, kind, title, plan }): NewNeed[] =>
      ((kind === 'repair' ? OF_REPAIR[title] : OF_PLAN[plan ?? '']) ?? []).map(([number, thousandths]) => ({
        ...{ orderId, lineId, partId: idOf(number), thousandths },
      })),
    );
    await askForParts(tx, needs, now);
  });
  await coverNeedsOf(database, {}, now);
}
