// A flood: many machines of one place within minutes, as after a power cut. They make one order, which lists each of them.
import { and, asc, eq, gt, inArray, isNotNull, isNull, like, lte, sql } from 'drizzle-orm';
import { orderNumber } from '#api/shapes.ts';
import type { AlertFloodId, AssetId, CustomerId, LocationId, OrderId } from '#core/ids.ts';
import { isFinished } from '#core/orders/index.ts';
import { crowdedIn, FLOOD } from '#core/signals/index.ts';
import type { Priority } from '#core/service-levels/index.ts';
import { asZone, instant, type Instant } from '#core/time/index.ts';
import { asset } from '../assets/tables.ts';
import { addLineIn, changeOrderIn, raiseCallIn, recordActIn } from '../orders/index.ts';
import { orderLine, workOrder } from '../orders/tables.ts';
import { location } from '../places/tables.ts';
import { bulkInsert, type Tx } from '../platform/database.ts';
import { soonest, unlessRefused, type Found } from './on-orders.ts';
import { alert, alertFlood, alertRule } from './tables.ts';

type Place = { readonly top: LocationId; readonly name: string; readonly customerId: CustomerId };
type Open = { readonly id: OrderId; readonly startedAt: Instant };

/** The top of the place a machine stands at, and whose machines are counted with it; null: it stands nowhere. */
async function placeOf(tx: Tx, assetId: AssetId): Promise<Place | null> {
  const [own] = await tx.db
    .select({ path: location.path, customerId: asset.customerId })
    .from(asset)
    .innerJoin(location, eq(location.id, asset.locationId))
    .where(eq(asset.id, assetId));
  const id = Number(own?.path.split('/')[1]);
  if (!own || !id) return null;
  const [top] = await tx.db
    .select({ id: location.id, name: location.name })
    .from(location)
    .where(eq(location.path, `/${id}/`));
  return top ? { top: top.id, name: top.name, customerId: own.customerId } : null;
}

/**
 * The places of some machines are this transaction's until it ends: alerts of one place are told one after the other, whoever tells them,
 * or of many at once each would be told of by itself. All that are needed are to be locked at once, in one order.
 */
export async function lockPlaces(tx: Tx, assetIds: readonly AssetId[]): Promise<void> {
  const rows = await tx.db
    .select({ path: location.path, customerId: asset.customerId })
    .from(asset)
    .innerJoin(location, eq(location.id, asset.locationId))
    .where(inArray(asset.id, [...new Set(assetIds)]));
  const places = new Map(
    rows.map(({ path, customerId }) => [
      `${path.split('/')[1]}/${customerId}`,
      [Number(path.split('/')[1]), customerId],
    ]),
  );
  await bulkInsert(
    tx.connection,
    'alert_place',
    ['location_id', 'customer_id'],
    [...places.values()].toSorted(([a = 0, b = 0], [c = 0, d = 0]) => a - c || b - d),
    'ON DUPLICATE KEY UPDATE location_id = VALUES(location_id)',
  );
}

/** Alerts that people were told of at a place, from some instant up to another. */
async function startsAt(tx: Tx, { top, customerId }: Place, after: Instant, upTo: Instant) {
  return tx.db
    .select({
      ...{ id: alert.id, at: alert.toldAt, assetId: alert.assetId, orderId: alert.orderId, rule: alertRule.name },
      ...{ priority: alertRule.priority, tag: asset.tag, model: asset.model, stage: workOrder.stage },
    })
    .from(alert)
    .innerJoin(alertRule, eq(alertRule.id, alert.ruleId))
    .innerJoin(asset, eq(asset.id, alert.assetId))
    .innerJoin(location, eq(location.id, asset.locationId))
    .leftJoin(workOrder, eq(workOrder.id, alert.orderId))
    .where(
      and(
        ...[gt(alert.toldAt, after), lte(alert.toldAt, upTo), isNotNull(alert.toldAt), isNull(alert.withdrawnAt)],
        ...[eq(asset.customerId, customerId), like(location.path, `/${top}/%`)],
      ),
    )
    .orderBy(asc(alert.toldAt), asc(alert.id));
}
type Start = Awaited<ReturnType<typeof startsAt>>[number];

/** The one order of a flood: every machine once, by the strictest priority. */
async function raiseFlood(tx: Tx, place: Place, starts: readonly Start[], now: Instant): Promise<OrderId> {
  const machines = [...new Map(starts.map((s) => [s.assetId, s])).values()];
  const first = starts[0]?.at ?? now;
  return raiseCallIn(
    tx,
    {
      ...{ kind: 'repair', assetIds: machines.map((m) => m.assetId), cause: 'unknown' },
      priority: Math.min(...starts.map((s) => s.priority)) as Priority,
      startedAt: soonest(first, now),
      title: `Alerts of ${machines.length} machines at ${place.name}`.slice(0, 200),
      raisedText: `alerts of many machines within minutes:\n${machines.map((m) => `${m.tag} ${m.model}: ${m.rule}`).join('\n')}`,
      ...{ requestKey: null, who: null, role: null, fallbackZone: asZone('UTC') },
    },
    now,
  );
}

/** Orders of single machines that nobody has begun with go on as part of the flood's. */
async function takeIn(
  tx: Tx,
  floodId: AlertFloodId,
  starts: readonly Start[],
  into: OrderId,
  now: Instant,
): Promise<void> {
  const own = [
    ...new Set(
      starts.flatMap((s) => (s.stage === 'raised' && s.orderId !== null && s.orderId !== into ? [s.orderId] : [])),
    ),
  ];
  for (const id of own)
    await unlessRefused(tx, async () => {
      const act = {
        kind: 'called off',
        text: `goes on with ${orderNumber(into)}, the order of all machines of the place`,
      } as const;
      await recordActIn(tx, id, { at: now, act, requestKey: `taken-in-${floodId}`, who: null }, now);
    });
  const taken = starts.filter((s) => s.orderId === null || own.includes(s.orderId)).map((s) => s.id);
  if (taken.length > 0)
    await tx.db.update(alert).set({ orderId: into, joined: 1, floodId }).where(inArray(alert.id, taken));
}

/** The flood that goes on at a place, or begins with these starts; the place is locked. */
async function openFlood(tx: Tx, place: Place, since: Instant): Promise<typeof alertFlood.$inferSelect> {
  const { top: locationId, customerId } = place;
  const ofPlace = and(
    eq(alertFlood.locationId, locationId),
    eq(alertFlood.customerId, customerId),
    isNull(alertFlood.until),
  );
  const [open] = await tx.db.select().from(alertFlood).where(ofPlace).for('update');
  if (open) return open;
  await tx.db
    .insert(alertFlood)
    .values({ locationId, customerId, from: since })
    .onDuplicateKeyUpdate({ set: { until: sql`null` } });
  const [made] = await tx.db.select().from(alertFlood).where(ofPlace).for('update');
  return made as typeof alertFlood.$inferSelect;
}

async function endFloods(tx: Tx, { top, customerId }: Place, at: Instant): Promise<void> {
  await tx.db
    .update(alertFlood)
    .set({ until: at })
    .where(
      and(
        ...[eq(alertFlood.locationId, top), eq(alertFlood.customerId, customerId), isNull(alertFlood.until)],
        lte(alertFlood.from, at),
      ),
    );
}

/**
 * The order of the flood that an alert is part of, from ten minutes before that began until its end, which lists its machine by then; null:
 * there is no flood, or its order is over.
 * Source: settled questions, Signals; EEMUA 191 (more than ten within ten minutes).
 */
export async function floodOrderOf(tx: Tx, found: Found, at: Instant, now: Instant): Promise<Open | null> {
  const place = await placeOf(tx, found.assetId);
  if (!place) return null;
  await lockPlaces(tx, [found.assetId]);
  // Machines are told of in any order: what started later may be known by now.
  const starts = await startsAt(tx, place, instant(at - 6 * FLOOD.spanMs), instant(at + FLOOD.spanMs));
  const floods = crowdedIn(
    starts.flatMap((s) => s.at ?? []),
    FLOOD,
  );
  const own = floods.find(({ from, to }) => from - FLOOD.spanMs < at && at < to);
  if (!own) {
    await endFloods(tx, place, at);
    return null;
  }
  const flood = await openFlood(tx, place, own.from);
  const recent = starts.filter((s) => (s.at ?? 0) > flood.from - FLOOD.spanMs);
  const [kept] =
    flood.orderId === null ? [] : await tx.db.select().from(workOrder).where(eq(workOrder.id, flood.orderId));
  if (kept && isFinished(kept.stage)) return null;
  let order: Open | null = kept ?? null;
  if (!kept)
    await unlessRefused(tx, async () => {
      const id = await raiseFlood(tx, place, recent, now);
      await tx.db.update(alertFlood).set({ orderId: id }).where(eq(alertFlood.id, flood.id));
      await takeIn(tx, flood.id, recent, id, now);
      order = { id, startedAt: soonest(recent[0]?.at ?? now, now) };
    });
  else {
    const [line] = await tx.db
      .select({ id: orderLine.id })
      .from(orderLine)
      .where(and(eq(orderLine.orderId, kept.id), eq(orderLine.assetId, found.assetId)));
    const requestKey = `flood-${flood.id}-${found.assetId}`;
    if (!line)
      await unlessRefused(tx, async () => {
        await addLineIn(
          tx,
          null,
          kept.id,
          { requestKey, assetId: found.assetId, cause: 'unknown', text: found.rule.name },
          now,
        );
      });
  }
  if (kept && found.rule.priority < kept.priority)
    await unlessRefused(tx, async () => {
      const { name, priority } = found.rule;
      const text = `a stricter alert of the place: ${name}`;
      await changeOrderIn(tx, null, kept.id, { requestKey: `stricter-${found.id}`, priority, lines: [], text }, now);
    });
  if (order !== null) await tx.db.update(alert).set({ floodId: flood.id }).where(eq(alert.id, found.id));
  return order;
}
