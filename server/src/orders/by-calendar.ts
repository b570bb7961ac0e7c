// What another calendar would make of clocks that count by it: the very ones that a change derives again, derived by both.
import { asc } from 'drizzle-orm';
import type { CalendarEffect } from '#api/calendar-effect.ts';
import type { CalendarId } from '#core/ids.ts';
import type { Instant, LocalDate } from '#core/time/index.ts';
import type { CalendarBook } from '../calendars/index.ts';
import type { Db } from '../platform/database.ts';
import { countsBy } from './derive-again.ts';
import { loadOrders } from './loading.ts';
import { clocksSaid } from './order-clocks.ts';
import { clock } from './tables.ts';

/** So many orders are looked at before a change; the change itself takes all of them. */
const LOOKED_AT = 500;
const SHOWN = 30;
const AT_ONCE = 100;

type Books = { readonly before: CalendarBook; readonly after: CalendarBook };
type Said = ReturnType<typeof clocksSaid>[number];

const isMissed = ({ state, dueAt }: Said, now: Instant): boolean =>
  state === 'missed' || (state === 'running' && dueAt !== null && dueAt !== undefined && dueAt < now);

export async function clocksOtherwise(
  db: Db,
  id: CalendarId,
  from: LocalDate,
  { before, after }: Books,
  now: Instant,
): Promise<CalendarEffect['clocks']> {
  const rows = await db
    .selectDistinct({ id: clock.orderId, due: clock.dueAt })
    .from(clock)
    .where(countsBy(id, from))
    .orderBy(asc(clock.dueAt), asc(clock.orderId));
  const ids = [...new Set(rows.map((r) => r.id))];
  const looked = ids.slice(0, LOOKED_AT);
  const found: CalendarEffect['clocks']['changed'] = [];
  for (let i = 0; i < looked.length; i += AT_ONCE) {
    const loaded = await loadOrders(db, looked.slice(i, i + AT_ONCE), 'look');
    for (const one of loaded) {
      const then = new Map(clocksSaid(one, after, now).map((c) => [`${c.orderLineId} ${c.target}`, c]));
      for (const was of clocksSaid(one, before, now)) {
        const will = then.get(`${was.orderLineId} ${was.target}`);
        const tag = one.lines.find((l) => l.id === was.orderLineId)?.tag ?? '';
        if (!will || (will.dueAt === was.dueAt && will.state === was.state && will.leftMs === was.leftMs)) continue;
        found.push({
          ...{ orderId: one.order.id, title: one.order.title, tag, target: was.target, zone: one.order.zone },
          ...{ dueBefore: was.dueAt ?? null, dueAfter: will.dueAt ?? null },
          ...{ missedBefore: isMissed(was, now), missedAfter: isMissed(will, now) },
        });
      }
    }
  }
  return {
    orders: ids.length,
    looked: looked.length,
    later: found.filter((c) => (c.dueAfter ?? Infinity) > (c.dueBefore ?? Infinity)).length,
    earlier: found.filter((c) => (c.dueAfter ?? Infinity) < (c.dueBefore ?? Infinity)).length,
    missedMore: found.filter((c) => c.missedAfter && !c.missedBefore).length,
    missedLess: found.filter((c) => c.missedBefore && !c.missedAfter).length,
    // What turns first, then what moves, in the order in which it is due.
    changed: found
      .toSorted((a, b) => Number(b.missedAfter !== b.missedBefore) - Number(a.missedAfter !== a.missedBefore))
      .slice(0, SHOWN),
  };
}
