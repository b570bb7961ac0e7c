// A calendar as it would be after a change: what is saved, and what a look at it before goes by.
import { eq } from 'drizzle-orm';
import type { Asked } from '#api/contract.ts';
import type { changeCalendar } from '#api/setup.ts';
import { changedCalendar, readCalendar, type Calendar } from '#core/calendars/index.ts';
import type { CalendarId } from '#core/ids.ts';
import type { LocalDate } from '#core/time/index.ts';
import type { Db } from '../platform/database.ts';
import { accept, refuse, stale } from '../platform/refuse.ts';
import { calendarOfRow } from './book.ts';
import { calendar } from './tables.ts';

export type CalendarChange = {
  readonly row: typeof calendar.$inferSelect;
  readonly before: Calendar;
  readonly after: Calendar;
  /** From this day on what counts by it may be otherwise. */
  readonly from: LocalDate;
};

/** Refused: what `readCalendar` and `changedCalendar` refuse, a calendar that is not there, and one that was changed meanwhile. */
export async function changedRow(
  db: Db,
  id: CalendarId,
  { holdsFrom = null, version, ...typed }: Asked<typeof changeCalendar>['body'],
  today: LocalDate,
  lock: 'lock' | 'look',
): Promise<CalendarChange> {
  const read = accept(readCalendar(typed));
  const query = db.select().from(calendar).where(eq(calendar.id, id));
  const [row] = lock === 'lock' ? await query.for('update') : await query;
  if (!row) refuse('not-found', 'That calendar does not exist.');
  if (row.version !== version) stale(row);
  const before = calendarOfRow(row);
  const after = accept(changedCalendar(before, read, { from: holdsFrom, today }));
  return { row, before, after, from: holdsFrom ?? today };
}
