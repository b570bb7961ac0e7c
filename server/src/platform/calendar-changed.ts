// Calendars that are open otherwise from a day on: rooms that keep something counted by them hear of it in the transaction of the change.
import type { CalendarId } from '#core/ids.ts';
import type { LocalDate } from '#core/time/index.ts';
import type { Tx } from './database.ts';

type Listener = (tx: Tx, id: CalendarId, from: LocalDate) => Promise<void>;

const listening: Listener[] = [];

/** Said by a room once, where it is loaded. */
export const whenCalendarChanges = (listener: Listener): void => void listening.push(listener);

export async function calendarChanged(tx: Tx, id: CalendarId, from: LocalDate): Promise<void> {
  for (const hear of listening) await hear(tx, id, from);
}
