// The care lane: visits that were raised, and those still to come as the run itself would propose them.
import { and, gte, inArray, lte } from 'drizzle-orm';
import type { CareMark } from '#api/ribbon.ts';
import type { AssetId } from '#core/ids.ts';
import { showVisit } from '#core/upkeep/index.ts';
import { jobPlan } from '../catalogue/tables.ts';
import type { Db } from '../platform/database.ts';
import type { Lane } from '../platform/lanes.ts';
import { computeRun } from './owed.ts';
import { schedule, visit } from './tables.ts';

/** Marks of one schedule that are still to come: more cannot be told apart on a line. */
const TO_COME = 60;

/** Names of the job plans of schedules. Read table by table: joined, the database would rather begin at the small tables and read every schedule. */
async function labelsOf(db: Db, rows: readonly (typeof visit.$inferSelect)[]): Promise<(scheduleId: number) => string> {
  const ids = [...new Set(rows.map((v) => v.scheduleId))];
  if (ids.length === 0) return () => '';
  const schedules = await db
    .select({ id: schedule.id, jobPlanId: schedule.jobPlanId })
    .from(schedule)
    .where(inArray(schedule.id, ids));
  const plans = await db
    .select({ id: jobPlan.id, name: jobPlan.name })
    .from(jobPlan)
    .where(inArray(jobPlan.id, [...new Set(schedules.map((s) => s.jobPlanId))]));
  const nameOf = new Map(plans.map((p) => [p.id, p.name]));
  const labelOf = new Map(schedules.map((s) => [s.id as number, nameOf.get(s.jobPlanId) ?? '']));
  return (scheduleId) => labelOf.get(scheduleId) ?? '';
}

export const careLane: Lane = async (db, ids, { from, to, today }) => {
  const [found, schedules] = await Promise.all([
    // By asset and due date alone: asked for their state or joined, the database would rather read every raised visit.
    db
      .select()
      .from(visit)
      .where(and(inArray(visit.assetId, [...ids]), gte(visit.due, from), lte(visit.due, to))),
    db
      .select({ id: schedule.id })
      .from(schedule)
      .where(inArray(schedule.assetId, [...ids])),
  ]);
  const raised = found
    .filter((v) => v.state === 'raised')
    .sort((a, b) => (a.due < b.due ? -1 : a.due > b.due ? 1 : a.id - b.id));
  const [labelOf, run] = await Promise.all([
    labelsOf(db, raised),
    computeRun(
      db,
      to,
      schedules.map((s) => s.id),
    ),
  ]);
  const care = new Map<AssetId, { care: CareMark[] }>(ids.map((id) => [id, { care: [] }]));
  for (const { assetId, due, windowFrom, windowTo, completedOn, orderId, scheduleId } of raised)
    care.get(assetId)?.care.push({
      ...{ due, windowFrom, windowTo, orderId },
      state: showVisit({ windowFrom, windowTo, completedOn }, today),
      label: labelOf(scheduleId),
    });
  const toCome = new Map<number, number>();
  for (const { row, visit: v } of run.owed) {
    const before = toCome.get(row.schedule.id) ?? 0;
    if (v.due < from || v.due > to || before === TO_COME) continue;
    toCome.set(row.schedule.id, before + 1);
    const { due, windowFrom, windowTo } = v;
    care.get(row.schedule.assetId)?.care.push({
      ...{ due, windowFrom, windowTo, orderId: null },
      state: showVisit({ windowFrom, windowTo, completedOn: null }, today),
      label: row.jobPlan,
    });
  }
  return care;
};
