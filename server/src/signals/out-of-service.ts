// When machines are out of service for those who watch them, as their orders tell.
import { group } from 'd3-array';
import { and, asc, eq, gt, gte, inArray, isNotNull, isNull, max, or, sql, type SQL } from 'drizzle-orm';
import type { AssetId } from '#core/ids.ts';
import { OUT_OF_SERVICE_ACTS, outOfServiceIn, type AtMachine, type Mask } from '#core/signals/index.ts';
import { HOUR, instant, type Instant } from '#core/time/index.ts';
import { orderEvent, orderLine, workOrder } from '../orders/tables.ts';
import type { Db } from '../platform/database.ts';
import { OVERLAP_IDS } from '../platform/live.ts';

const kind = sql<AtMachine['kind']>`json_value(${orderEvent.act}, '$.kind')`;
const isOfInterest = inArray(kind, [...OUT_OF_SERVICE_ACTS]);
/** Some machines of an order are back in use before others. */
const isOfItsLine: SQL | undefined = or(
  isNull(sql`json_value(${orderEvent.act}, '$.lineId')`),
  eq(sql`json_value(${orderEvent.act}, '$.lineId')`, orderLine.id),
);

/** Of each machine the times in which it is out of service; orders that were done before an instant are not looked at. */
export async function outOfService(db: Db, ids: readonly AssetId[], since: Instant): Promise<Map<AssetId, Mask[]>> {
  const rows =
    ids.length === 0
      ? []
      : await db
          .select({ assetId: orderLine.assetId, lineId: orderLine.id, at: orderEvent.at, kind })
          .from(orderLine)
          .innerJoin(workOrder, eq(workOrder.id, orderLine.orderId))
          .innerJoin(orderEvent, eq(orderEvent.orderId, orderLine.orderId))
          .where(
            and(
              ...[inArray(orderLine.assetId, [...ids]), eq(orderLine.off, false), isOfInterest, isOfItsLine],
              or(isNull(workOrder.doneAt), gte(workOrder.doneAt, since)),
            ),
          )
          .orderBy(asc(orderEvent.at), asc(orderEvent.id));
  const byMachine = group(
    rows,
    (r) => r.assetId as AssetId,
    (r) => r.lineId,
  );
  return new Map(
    ids.map((id) => [id, [...(byMachine.get(id)?.values() ?? [])].flatMap((acts) => outOfServiceIn(acts))]),
  );
}

/** How far back a server that was just begun looks for what others recorded while it was away. */
const LOOK_BACK_MS = HOUR;

export type WorkedOn = { readonly eventId: number; readonly assetId: AssetId; readonly at: Instant };

/** What was recorded of work on machines since the event that was seen last; ids are given out before commit, so some are given again. */
export async function workedOnSince(
  db: Db,
  seenUpTo: number | null,
  now: Instant,
): Promise<{ readonly upTo: number; readonly found: readonly WorkedOn[] }> {
  const [newest] = await db.select({ id: max(orderEvent.id) }).from(orderEvent);
  const upTo = newest?.id ?? 0;
  if (upTo === seenUpTo) return { upTo, found: [] };
  const rows = await db
    .select({ eventId: orderEvent.id, assetId: orderLine.assetId, at: orderEvent.at })
    .from(orderEvent)
    .innerJoin(orderLine, eq(orderLine.orderId, orderEvent.orderId))
    .where(
      and(
        gt(orderEvent.id, (seenUpTo ?? upTo) - OVERLAP_IDS),
        gte(orderEvent.recordedAt, instant(now - LOOK_BACK_MS)),
        ...[isNotNull(orderLine.assetId), isOfInterest],
      ),
    );
  return { upTo, found: rows.map((r) => ({ ...r, assetId: r.assetId as AssetId })) };
}
