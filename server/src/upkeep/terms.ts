// What a schedule is written down with: checked by the core, its references looked up, as columns.
import { and, eq, inArray, isNull, sql } from 'drizzle-orm';
import type * as v from 'valibot';
import type { scheduleTerms } from '#api/cadence.ts';
import type { Asked } from '#api/contract.ts';
import { changeSchedule } from '#api/schedules.ts';
import type { ScheduleId } from '#core/ids.ts';
import { checkScheduleTerms, readCadence, writtenCadence } from '#core/upkeep/index.ts';
import { agreement } from '../agreements/tables.ts';
import { calendar } from '../calendars/tables.ts';
import { jobPlan } from '../catalogue/tables.ts';
import { keepAudit } from '../platform/audit.ts';
import type { Database, Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { announce } from '../platform/live.ts';
import { accept, refuse } from '../platform/refuse.ts';
import { person } from '../platform/tables.ts';
import { lineSchedule, schedule, type TermColumns } from './tables.ts';

type Terms = { readonly [K in keyof typeof scheduleTerms]: v.InferOutput<(typeof scheduleTerms)[K]> };

/** Refused: what the core refuses, each at its field. */
export function termColumns({
  lead,
  assetIds: _,
  version: __,
  wholeLine: ___,
  ...terms
}: Terms & { assetIds?: unknown; version?: number; wholeLine?: boolean }): TermColumns {
  const cadence = accept(readCadence(terms.cadence, terms.anchor));
  accept(checkScheduleTerms(cadence, { ...terms, lead }, terms.hours));
  return { ...terms, cadence: writtenCadence(cadence), leadDays: lead };
}

/** The job plan’s name. Refused: job plans, a calendar or a technician that do not exist. */
export async function checkReferences(
  tx: Tx,
  { jobPlanId, cadence, calendarId, technicianId }: Terms,
): Promise<string> {
  const own = cadence.kind === 'phases' ? cadence.phases.map((phase) => phase.jobPlanId) : [];
  const wanted = [jobPlanId, ...own.filter((id) => id !== null)];
  const plans = await tx.db
    .select({ id: jobPlan.id, name: jobPlan.name })
    .from(jobPlan)
    .where(inArray(jobPlan.id, wanted));
  const names = new Map(plans.map((p) => [p.id, p.name]));
  const name = names.get(jobPlanId);
  if (name === undefined) refuse('not-found', 'That job plan does not exist; choose another.', 'jobPlanId');
  own.forEach((id, i) => {
    if (id !== null && !names.has(id))
      refuse('not-found', 'That job plan does not exist; choose another.', `cadence.phases.${i}.jobPlanId`);
  });
  if (calendarId !== null) {
    const [known] = await tx.db.select({ id: calendar.id }).from(calendar).where(eq(calendar.id, calendarId));
    if (!known) refuse('not-found', 'That calendar does not exist; choose another.', 'calendarId');
  }
  if (technicianId !== null) {
    const [known] = await tx.db.select({ role: person.role }).from(person).where(eq(person.id, technicianId));
    if (known?.role !== 'technician') refuse('not-found', 'That is no technician; choose another.', 'technicianId');
  }
  return name;
}

/**
 * Changes a schedule’s terms; visits raised before keep theirs. Refused: what the core refuses, a rule over dates of an agreement
 * that is or was in force (it is changed from a visit on), a schedule that was changed since it was read.
 */
export async function changeTerms(
  database: Database,
  id: ScheduleId,
  ask: Asked<typeof changeSchedule>['body'],
  who: Person,
): Promise<number> {
  const columns = termColumns(ask);
  return database.transact(async (tx) => {
    const [found] = await tx.db
      .select({ held: schedule, stage: agreement.stage })
      .from(schedule)
      .innerJoin(agreement, eq(agreement.id, schedule.agreementId))
      .where(eq(schedule.id, id))
      .for('update');
    if (!found) refuse('not-found', 'There is no such schedule.');
    const { held, stage } = found;
    if (held.version !== ask.version)
      refuse('stale', 'Somebody changed this schedule meanwhile; look at it again.', 'version');
    const counts = held.cadence.kind === 'since service' && columns.cadence.kind === 'since service';
    const sameDates =
      held.anchor === ask.anchor && (counts || JSON.stringify(held.cadence) === JSON.stringify(columns.cadence));
    if (stage !== 'draft' && !sameDates)
      refuse('conflict', 'Visits follow this rule already: change it from one of them on.', 'cadence');
    const name = await checkReferences(tx, ask);
    const line = ask.wholeLine ? held.lineScheduleId : null;
    if (line !== null) await tx.db.update(lineSchedule).set({ terms: columns }).where(eq(lineSchedule.id, line));
    const which =
      line === null ? eq(schedule.id, id) : and(eq(schedule.lineScheduleId, line), isNull(schedule.holdsTo));
    const changed = await tx.db.select({ id: schedule.id }).from(schedule).where(which);
    await tx.db
      .update(schedule)
      .set({ ...columns, version: sql`${schedule.version} + 1` })
      .where(which);
    await keepAudit(
      tx,
      who,
      'schedule',
      id,
      `terms changed: ${name}, ${ask.earlyDays} days early, ${ask.lateDays} late`,
    );
    await announce(
      tx,
      changeSchedule,
      changed.map((c) => ({ subject: 'schedule', id: c.id })),
    );
    return held.version + 1;
  });
}
