// Time that runs: started for a line, stopped into an entry of its span; one of a person at a time.
import { eq } from 'drizzle-orm';
import type { Asked } from '#api/contract.ts';
import type { RunningTime, startTime, stopTime } from '#api/labour.ts';
import { instant, MINUTE, toWallTime, type Instant } from '#core/time/index.ts';
import { asset } from '../assets/tables.ts';
import { orderLine, workOrder } from '../orders/tables.ts';
import type { Database, Db } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { refuse } from '../platform/refuse.ts';
import type { Write } from '../platform/writing.ts';
import { enterIn, keyTaken } from './entries.ts';
import { lockWhose } from './whose.ts';
import { runningTime } from './tables.ts';

export async function runningOf(db: Db, who: Person): Promise<RunningTime | null> {
  const [row] = await db
    .select({ running: runningTime, title: workOrder.title, tag: asset.tag })
    .from(runningTime)
    .innerJoin(workOrder, eq(workOrder.id, runningTime.orderId))
    .innerJoin(orderLine, eq(orderLine.id, runningTime.orderLineId))
    .leftJoin(asset, eq(asset.id, orderLine.assetId))
    .where(eq(runningTime.personId, who.id));
  if (!row) return null;
  const { orderId, orderLineId: lineId, kind, startedAt } = row.running;
  return { orderId, lineId, kind, startedAt, title: row.title, tag: row.tag ?? '' };
}

/** Starts the reader's own time. Refused: while other time of theirs runs, and on orders that take no more. */
export const startOn = (
  write: Write,
  who: Person,
  { lineId, kind }: Asked<typeof startTime>['body'],
  now: Instant,
): Promise<void> =>
  write(async (tx, told) => {
    await lockWhose(tx, who, who.id);
    const [running] = await tx.db.select().from(runningTime).where(eq(runningTime.personId, who.id));
    if (running) {
      if (running.orderLineId === lineId && running.kind === kind) return;
      refuse('conflict', 'Your time is running for another order; stop it first.', 'lineId');
    }
    const [line] = await tx.db
      .select({ orderId: orderLine.orderId, stage: workOrder.stage })
      .from(orderLine)
      .innerJoin(workOrder, eq(workOrder.id, orderLine.orderId))
      .where(eq(orderLine.id, lineId));
    if (!line) refuse('not-found', 'That order does not exist; choose another.', 'lineId');
    if (line.stage === 'called off' || line.stage === 'settled')
      refuse('wrong-stage', `The order is ${line.stage}; it takes no more time.`, 'lineId');
    await tx.db
      .insert(runningTime)
      .values({ personId: who.id, orderId: line.orderId, orderLineId: lineId, kind, startedAt: now });
    told({ subject: 'order', id: line.orderId, text: `time of ${who.name} started: ${kind}` });
  });

/**
 * Stops it: what ran becomes an entry from its start to now, by the minute; less than a minute is no entry. Refused as an entry is,
 * and it runs on then. A repeated request key gives the entry again.
 */
export async function stopRunning(
  database: Database,
  write: Write,
  who: Person,
  { requestKey, text, overlapReason }: Asked<typeof stopTime>['body'],
  now: Instant,
): Promise<{ id: number | null }> {
  const before = await keyTaken(database.db, requestKey);
  if (before !== null) return { id: before };
  return write(async (tx, told) => {
    const of = await lockWhose(tx, who, who.id);
    const [running] = await tx.db.select().from(runningTime).where(eq(runningTime.personId, who.id));
    if (!running) refuse('not-found', 'No time of yours is running.');
    await tx.db.delete(runningTime).where(eq(runningTime.personId, who.id));
    told({ subject: 'order', id: running.orderId, text: `time of ${who.name} stopped` });
    const [from, to] = [Math.floor(running.startedAt / MINUTE), Math.floor(now / MINUTE)];
    if (to <= from) return { id: null };
    const [begins, ends] = [toWallTime(of.zone, instant(from * MINUTE)), toWallTime(of.zone, instant(to * MINUTE))];
    const body = {
      ...{
        day: begins.date,
        kind: running.kind,
        from: begins.minutes,
        to: ends.minutes,
        minutes: null,
        hours: null,
        kilometres: 0,
      },
      ...{ text, overlapReason, lines: [{ lineId: running.orderLineId, share: 1 }] },
    };
    return { id: await enterIn(tx, told, who, of, body, { requestKey, requestContent: null }, now) };
  });
}
