// Holding visits back with a reason, and letting them go on.
import { and, eq, or } from 'drizzle-orm';
import * as contracts from '#api/upkeep.ts';
import type { ScheduleId } from '#core/ids.ts';
import type { LocalDate } from '#core/time/index.ts';
import { keepAudit } from '../platform/audit.ts';
import { bulkInsert, type Database } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { announce } from '../platform/live.ts';
import { refuse } from '../platform/refuse.ts';
import { computeRun, visitKey } from './owed.ts';
import { VISIT_COLUMNS, visitValues } from './rows.ts';
import { visit } from './tables.ts';

export type VisitKey = { readonly scheduleId: ScheduleId; readonly nominal: LocalDate };

/** Writes the held visits of a run, each with its reason. Visits that were raised meanwhile are left alone. */
export async function holdVisits(
  database: Database,
  keys: readonly VisitKey[],
  to: LocalDate,
  reason: string,
  who: Person,
): Promise<number> {
  const { owed, held } = await computeRun(database.db, to, [...new Set(keys.map((k) => k.scheduleId))]);
  const wanted = new Set(keys.map((k) => visitKey(k.scheduleId, k.nominal)));
  const chosen = owed.filter((o) => wanted.has(visitKey(o.row.schedule.id, o.visit.nominal)));
  if (chosen.length === 0) refuse('conflict', 'None of these visits is proposed any more; look at the run again.');
  const anew = chosen.filter((o) => held.get(visitKey(o.row.schedule.id, o.visit.nominal))?.reason !== reason);
  if (anew.length === 0) return chosen.length;
  return database.transact(async (tx) => {
    await bulkInsert(
      tx.connection,
      'visit',
      [...VISIT_COLUMNS, 'hold_reason'],
      anew.map((o) => [...visitValues(o, 'held', null), reason]),
      "ON DUPLICATE KEY UPDATE hold_reason = IF(state = 'held', VALUES(hold_reason), hold_reason)",
    );
    await keepAudit(tx, who, 'upkeep', 0, `held ${anew.length} visits: ${reason}`);
    await announce(tx, contracts.holdVisits);
    return chosen.length;
  });
}

export async function releaseVisits(database: Database, keys: readonly VisitKey[], who: Person): Promise<void> {
  await database.transact(async (tx) => {
    const named = or(...keys.map((k) => and(eq(visit.scheduleId, k.scheduleId), eq(visit.nominal, k.nominal))));
    const [{ affectedRows }] = await tx.db.delete(visit).where(and(eq(visit.state, 'held'), named));
    if (affectedRows === 0) return;
    await keepAudit(tx, who, 'upkeep', 0, `released ${affectedRows} held visits`);
    await announce(tx, contracts.releaseVisits);
  });
}
