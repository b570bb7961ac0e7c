// The outlook: for each schedule a short row that says what a run would raise today and when it next raises, kept ready so
// that Today need not compute a run. Worked out by the run's own function, some schedules at a time.
import { and, asc, gt, lte, notInArray } from 'drizzle-orm';
import { outlookRead } from '#api/upkeep.ts';
import type { CustomerId, ScheduleId } from '#core/ids.ts';
import { addDays, type LocalDate } from '#core/time/index.ts';
import { bulkInsert, type Database } from '../platform/database.ts';
import { announce } from '../platform/live.ts';
import { computeRun, visitKey } from './owed.ts';
import { outlook, schedule } from './tables.ts';

/** Schedules worked out at a time. */
const AT_ONCE = 200;
/** How far ahead the next raising is looked for; further away it is found as the days go by. */
const AHEAD_DAYS = 31;

type Row = {
  readonly scheduleId: ScheduleId;
  toRaise: number;
  held: number;
  nextRaise: LocalDate | null;
  careReason: string | null;
  /** Whose agreement it is, where something needs action. */
  customerId: CustomerId | null;
};

async function rowsOf({ db }: Database, ids: readonly ScheduleId[], today: LocalDate): Promise<Row[]> {
  const { owed, nothing, held } = await computeRun(db, addDays(today, AHEAD_DAYS), ids);
  const rows = new Map<ScheduleId, Row>(
    ids.map((scheduleId) => [
      scheduleId,
      { scheduleId, toRaise: 0, held: 0, nextRaise: null, careReason: null, customerId: null },
    ]),
  );
  for (const { row, visit } of owed) {
    const own = rows.get(row.schedule.id) as Row;
    const isHeld = held.has(visitKey(row.schedule.id, visit.nominal));
    if (visit.raise > today) {
      if (!isHeld && (own.nextRaise === null || visit.raise < own.nextRaise)) own.nextRaise = visit.raise;
    } else if (isHeld) own.held += 1;
    else own.toRaise += 1;
  }
  for (const { row, nothing: why } of nothing)
    if (why.kind === 'needs action')
      Object.assign(rows.get(row.schedule.id) as Row, {
        careReason: why.reason,
        customerId: row.agreement.customerId,
      });
  return [...rows.values()];
}

/** Works out the outlook of every schedule as of a day, and gives how many schedules there are. */
export async function lookOut(database: Database, today: LocalDate): Promise<number> {
  const { db } = database;
  let count = 0;
  for (let after = 0 as ScheduleId; ;) {
    const ids = (
      await db
        .select({ id: schedule.id })
        .from(schedule)
        .where(gt(schedule.id, after))
        .orderBy(asc(schedule.id))
        .limit(AT_ONCE)
    ).map((s) => s.id);
    const last = ids[ids.length - 1];
    const rows = await rowsOf(database, ids, today);
    const gone = and(
      gt(outlook.scheduleId, after),
      last === undefined ? undefined : lte(outlook.scheduleId, last),
      ids.length === 0 ? undefined : notInArray(outlook.scheduleId, ids),
    );
    await database.transact(async (tx) => {
      await tx.db.delete(outlook).where(gone);
      await bulkInsert(
        tx.connection,
        'outlook',
        ['schedule_id', 'customer_id', 'as_of', 'to_raise', 'held', 'next_raise', 'care_reason'],
        rows.map((r) => [r.scheduleId, r.customerId, today, r.toRaise, r.held, r.nextRaise, r.careReason]),
        'ON DUPLICATE KEY UPDATE customer_id = VALUES(customer_id), as_of = VALUES(as_of), to_raise = VALUES(to_raise), held = VALUES(held), next_raise = VALUES(next_raise), care_reason = VALUES(care_reason)',
      );
    });
    if (last === undefined) break;
    count += ids.length;
    after = last;
  }
  await database.transact((tx) => announce(tx, { touches: outlookRead }));
  return count;
}
