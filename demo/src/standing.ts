// Months of standing that were closed, and an arrival that the gate's list showed to have been earlier: told beside its month since.
import { randomUUID } from 'node:crypto';
import { and, asc, eq, gte, lt } from 'drizzle-orm';
import { closeStandingMonth } from '#api/standing-months.ts';
import type { PersonId } from '#core/ids.ts';
import { monthOf, monthsBetween } from '#core/standing/index.ts';
import {
  addMonths,
  asZone,
  DAY,
  HOUR,
  instant,
  MINUTE,
  startOfDay,
  type Instant,
  type LocalDate,
} from '#core/time/index.ts';
import { correctIn, loadOrder } from '#server/orders/index.ts';
import type { Database } from '#server/platform/database.ts';
import { writeAs } from '#server/platform/writing.ts';
import { adjustClosed, closeMonth, firstMonth, openIn } from '#server/standing/index.ts';
import { clock, person } from '#server/tables.ts';
import { LISBON } from './scenario.ts';

/** On the fifth day after it, at nine. */
const closedAt = (month: LocalDate): Instant =>
  instant(startOfDay(asZone(LISBON), addMonths(month, 1)) + 4 * DAY + 9 * HOUR);

async function managerOf({ db }: Database): Promise<PersonId> {
  const [manager] = await db.select({ id: person.id }).from(person).where(eq(person.role, 'manager')).limit(1);
  if (!manager) throw new Error('The demo closes months by its manager, who is not there.');
  return manager.id;
}

/** An order of a month whose technician came late, by the arrival that was told. */
async function cameLate({ db }: Database, month: LocalDate) {
  const [late] = await db
    .select({ orderId: clock.orderId, dueAt: clock.dueAt })
    .from(clock)
    .where(
      and(
        ...[eq(clock.target, 'arrival'), eq(clock.state, 'missed'), eq(clock.missCause, 'came late')],
        ...[gte(clock.dueOn, month), lt(clock.dueOn, addMonths(month, 1))],
      ),
    )
    .orderBy(asc(clock.id))
    .limit(1);
  return late;
}

/** All months but the last one that is over are closed; of the newest of those something was found since. */
export async function writeClosedMonths(database: Database, now: Instant, today: LocalDate): Promise<void> {
  const first = await firstMonth(database.db);
  if (first === null) return;
  const who = await managerOf(database);
  const write = writeAs(database, { id: who }, closeStandingMonth);
  const closed = monthsBetween(first, addMonths(monthOf(today), -2));
  for (const month of closed)
    await closeMonth(
      write,
      { month, reason: (await openIn(database.db, month)) > 0 ? 'what is open of it was looked through' : '' },
      who,
      closedAt(month),
    );
  const last = closed.at(-1);
  const late = last && (await cameLate(database, last));
  if (!late) return;
  const foundAt = instant(now - 8 * DAY);
  await database.transact(async (tx) => {
    const { recorded } = await loadOrder(tx.db, late.orderId, 'lock');
    const arrival = recorded.find((e) => e.act.kind === 'arrived');
    if (!arrival || late.dueAt === null) return;
    const correction = {
      eventId: arrival.id,
      to: instant(late.dueAt - 12 * MINUTE),
      text: 'the gate’s list shows when he came in; the phone had no signal in the basement',
      requestKey: randomUUID(),
    };
    await correctIn(tx, who, late.orderId, correction, foundAt);
  });
  await adjustClosed(database, foundAt);
}
