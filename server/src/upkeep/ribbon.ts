// The care lane: visits that were raised, and those still to come as the run itself would propose them.
import { and, gte, inArray, isNotNull, lte } from 'drizzle-orm';
import type { CareMark } from '#api/ribbon.ts';
import type { AssetId, ScheduleId } from '#core/ids.ts';
import type { LocalDate } from '#core/time/index.ts';
import { leftOutVisits, showVisit } from '#core/upkeep/index.ts';
import type { Db } from '../platform/database.ts';
import type { Lane } from '../platform/lanes.ts';
import { planBook } from './loading.ts';
import { computeRun, loadMany } from './owed.ts';
import { schedule, visit, visitChange } from './tables.ts';

/** Marks of one schedule that are still to come: more cannot be told apart on a line. */
const TO_COME = 60;

export const careLane: Lane = async (db, ids, { from, to, today }) => {
  const [found, own] = await Promise.all([
    // By asset and due date alone: asked for their state or joined, the database would rather read every raised visit.
    db
      .select()
      .from(visit)
      .where(and(inArray(visit.assetId, [...ids]), gte(visit.due, from), lte(visit.due, to))),
    db
      .select({ id: schedule.id, assetId: schedule.assetId })
      .from(schedule)
      .where(inArray(schedule.assetId, [...ids])),
  ]);
  const raised = found
    .filter((v) => v.state === 'raised')
    .sort((a, b) => (a.due < b.due ? -1 : a.due > b.due ? 1 : a.id - b.id));
  const [plans, run] = await Promise.all([planBook(db), computeRun(db, to, { ids: own.map((s) => s.id) })]);
  const care = new Map<AssetId, { care: CareMark[] }>(ids.map((id) => [id, { care: [] }]));
  for (const { assetId, due, planned, windowFrom, windowTo, completedOn, orderId, jobPlanId } of raised)
    care.get(assetId)?.care.push({
      ...{ due, planned, windowFrom, windowTo, orderId, changed: false },
      state: showVisit({ windowFrom, windowTo, completedOn }, today),
      label: plans.get(jobPlanId)?.name ?? '',
    });
  const toCome = new Map<number, number>();
  for (const { row, visit: v } of run.owed) {
    const before = toCome.get(row.schedule.id) ?? 0;
    if (v.due < from || v.due > to || before === TO_COME) continue;
    toCome.set(row.schedule.id, before + 1);
    const { due, planned, windowFrom, windowTo, changed, band } = v;
    care.get(row.schedule.assetId)?.care.push({
      ...{ due, planned, windowFrom, windowTo, orderId: null, changed: changed !== null, ...(band && { band }) },
      state: showVisit({ windowFrom, windowTo, completedOn: null }, today),
      label: plans.get(v.jobPlanId)?.name ?? '',
    });
  }
  for (const { schedule: s, visit: v, reason } of await leftOutOf(db, own, to)) {
    if (v.due < from || v.due > to) continue;
    const { due, planned, windowFrom, windowTo } = v;
    care.get(s.assetId)?.care.push({
      ...{ due, planned, windowFrom, windowTo, orderId: null, changed: true, state: 'left out' as const },
      label: `${plans.get(v.jobPlanId)?.name ?? ''} (${reason})`,
    });
  }
  return care;
};

/** Visits of some schedules that somebody left out. Few have any: only those are loaded. */
async function leftOutOf(db: Db, schedules: readonly { id: ScheduleId; assetId: AssetId }[], to: LocalDate) {
  if (schedules.length === 0) return [];
  const found = await db
    .selectDistinct({ id: visitChange.scheduleId })
    .from(visitChange)
    .where(
      and(
        inArray(
          visitChange.scheduleId,
          schedules.map((s) => s.id),
        ),
        isNotNull(visitChange.skipped),
      ),
    );
  const loaded = await loadMany(
    db,
    found.map((f) => f.id),
  );
  return schedules.flatMap((s) => {
    const of = loaded.get(s.id);
    return of ? leftOutVisits(of, to).map((left) => ({ ...left, schedule: s })) : [];
  });
}
