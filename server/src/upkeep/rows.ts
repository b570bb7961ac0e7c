// A visit as a row.
import type { ScheduleId } from '#core/ids.ts';
import type { VisitState } from '#core/upkeep/index.ts';
import type { Owed } from './owed.ts';

export const VISIT_COLUMNS = [
  'schedule_id',
  'nominal',
  'part',
  'asset_id',
  'agreement_id',
  'job_plan_id',
  'due',
  'planned',
  'window_from',
  'window_to',
  'state',
] as const;

export function visitValues({ row, visit: v }: Owed, state: VisitState): unknown[] {
  return [
    row.schedule.id,
    v.nominal,
    v.part,
    row.schedule.assetId,
    row.agreement.id,
    v.jobPlanId,
    v.due,
    v.planned,
    v.windowFrom,
    v.windowTo,
    state,
  ];
}

/** Where a visit has a row already, these columns are written only while it is in one of these states; its state last, for it decides. */
function whileIn(states: readonly VisitState[], columns: readonly string[]): string {
  const isIn = `state IN (${states.map((s) => `'${s}'`).join(', ')})`;
  const anew = [...columns, 'state'].map((c) => `${c} = IF(${isIn}, VALUES(${c}), ${c})`);
  return `ON DUPLICATE KEY UPDATE ${anew.join(', ')}`;
}

/** While it is still to come, whatever was decided on it. */
export const whileToCome = (columns: readonly string[]): string => whileIn(['held', 'accepted'], columns);
/** While somebody let it go on; one that is held stays so. */
export const whileLetGoOn = (columns: readonly string[]): string => whileIn(['accepted'], columns);

/** Schedules as a notice of a change names them. */
export const schedulesOf = (rows: readonly { readonly scheduleId: ScheduleId }[]) =>
  [...new Set(rows.map((r) => r.scheduleId))].map((id) => ({ subject: 'schedule', id }));
