// Orders as a phone holds them: all that is needed on site, with what the rules need to judge an act there as they will here.
import { group } from 'd3-array';
import { and, asc, desc, eq, inArray, isNotNull, ne, sql } from 'drizzle-orm';
import type { FieldOrder } from '#api/field.ts';
import type { AssetId, LocationId, OrderId } from '#core/ids.ts';
import { OPEN_STAGES, type OrderEvent } from '#core/orders/index.ts';
import { paidOf } from '#core/settle/index.ts';
import { localDateAt, type Instant } from '#core/time/index.ts';
import { asset } from '../assets/tables.ts';
import { metersOfAssets } from '../meters/index.ts';
import { loadOrders, readOrderAs, type OrderRow } from '../orders/index.ts';
import { lineLocation, orderEvent, orderLine, technicianName, isTechnician, workOrder } from '../orders/tables.ts';
import { location } from '../places/tables.ts';
import type { Db } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { person } from '../platform/tables.ts';
import { spotsOf } from '../rota/index.ts';
import { chargesOf, dueOf, showsPrice } from '../settle/index.ts';
import { alertCurves } from '../signals/index.ts';
import { needsShown } from '../stores/index.ts';
import { ownStamps } from './days.ts';

/** So many of the last works at a machine are told. */
const LAST_WORKS = 3;
const MOST_PARTS = 500;
const MOST_HERE = 300;

type LastWork = FieldOrder['machines'][number]['last'][number];

/** What was last done at machines, the latest first. */
async function lastWorks(db: Db, assets: readonly AssetId[]): Promise<Map<AssetId, LastWork[]>> {
  if (assets.length === 0) return new Map();
  const nth = sql<number>`row_number() over (partition by ${orderLine.assetId} order by ${workOrder.doneAt} desc)`;
  const ranked = db
    .select({
      ...{ assetId: orderLine.assetId, orderId: workOrder.id, title: workOrder.title, zone: workOrder.zone },
      ...{ doneAt: workOrder.doneAt, cause: orderLine.causeFound, remedy: orderLine.remedy },
      who: sql<string | null>`${technicianName}`.as('who'),
      nth: nth.as('nth'),
    })
    .from(orderLine)
    .innerJoin(workOrder, eq(workOrder.id, orderLine.orderId))
    .leftJoin(person, isTechnician)
    .where(and(inArray(orderLine.assetId, [...assets]), isNotNull(workOrder.doneAt), eq(orderLine.off, false)))
    .as('ranked');
  const rows = await db
    .select()
    .from(ranked)
    .where(sql`${ranked.nth} <= ${LAST_WORKS}`)
    .orderBy(desc(ranked.doneAt));
  const ids = [...new Set(rows.map((r) => r.orderId))];
  const noted =
    ids.length === 0
      ? []
      : await db
          .select({ orderId: orderEvent.orderId, act: orderEvent.act })
          .from(orderEvent)
          .where(and(inArray(orderEvent.orderId, ids), sql`json_value(${orderEvent.act}, '$.kind') = 'note'`))
          .orderBy(asc(orderEvent.at));
  const notes = group(noted, (n) => n.orderId);
  const works = rows.map((r) => ({
    assetId: r.assetId as AssetId,
    work: {
      ...{ orderId: r.orderId, title: r.title, on: localDateAt(r.zone, r.doneAt as Instant), who: r.who },
      ...{ cause: r.cause, remedy: r.remedy },
      notes: (notes.get(r.orderId) ?? []).flatMap(({ act }) => (act.kind === 'note' ? [act.text] : [])),
    },
  }));
  return new Map([...group(works, (w) => w.assetId)].map(([id, own]) => [id, own.map((w) => w.work)]));
}

/** The machines that are part of others. */
async function partsOf(db: Db, ids: readonly AssetId[]) {
  const rows =
    ids.length === 0
      ? []
      : await db
          .select({
            ...{
              parentId: asset.parentId,
              assetId: asset.id,
              tag: asset.tag,
              serial: asset.serial,
              model: asset.model,
            },
          })
          .from(asset)
          .where(and(inArray(asset.parentId, [...ids]), ne(asset.state, 'retired')))
          .orderBy(asc(asset.tag))
          .limit(MOST_PARTS);
  return group(rows, (r) => r.parentId as AssetId);
}

/** Other open work of the same customers, at the very places of these orders. */
async function alsoHereOf(
  db: Db,
  orders: readonly OrderRow[],
  places: ReadonlyMap<OrderId, ReadonlySet<LocationId>>,
): Promise<(id: OrderId) => FieldOrder['alsoHere']> {
  const rows = await db
    .selectDistinct({
      ...{ orderId: workOrder.id, title: workOrder.title, stage: workOrder.stage, said: workOrder.callerSaid },
      locationId: lineLocation,
    })
    .from(workOrder)
    .innerJoin(orderLine, eq(orderLine.orderId, workOrder.id))
    .leftJoin(asset, eq(asset.id, orderLine.assetId))
    .where(
      and(
        inArray(workOrder.customerId, [...new Set(orders.map((o) => o.customerId))]),
        inArray(workOrder.stage, [...OPEN_STAGES]),
        inArray(lineLocation, [...new Set([...places.values()].flatMap((p) => [...p]))]),
      ),
    )
    .orderBy(asc(workOrder.id))
    .limit(MOST_HERE);
  return (id) => {
    const here = places.get(id);
    const others = rows.filter((r) => r.orderId !== id && r.locationId !== null && here?.has(r.locationId) === true);
    return [...new Map(others.map((r) => [r.orderId, r])).values()].map(({ locationId: _, said, ...o }) => ({
      ...o,
      said: said ?? '',
    }));
  };
}

/** What it comes to for the customer as the office has it, by what it is for. */
async function comesToOf(db: Db, id: OrderId): Promise<FieldOrder['comesTo']> {
  const all = await chargesOf(db, id, 'manager');
  const { currency, charges, payments } = all;
  const pay = charges.reduce((sum, c) => sum + (c.pay ?? 0), 0);
  const rows = [...group(charges, (c) => c.text ?? c.what)].map(([what, of]) => ({
    what,
    pay: of.reduce((sum, c) => sum + (c.pay ?? 0), 0),
  }));
  return {
    ...{ currency, pay, withTax: dueOf(all), paid: paidOf(payments) },
    toInvoice: payments.some((p) => p.state === 'agreed'),
    rows: rows.filter((r) => r.pay > 0),
  };
}

async function placesOf(db: Db, ids: readonly OrderId[]) {
  const rows = await db
    .select({ orderId: orderLine.orderId, locationId: lineLocation, path: location.path })
    .from(orderLine)
    .leftJoin(asset, eq(asset.id, orderLine.assetId))
    .leftJoin(location, eq(location.id, lineLocation))
    .where(inArray(orderLine.orderId, [...ids]))
    .orderBy(asc(orderLine.id));
  const spotOf = await spotsOf(db, rows);
  const first = new Map<OrderId, ReturnType<typeof spotOf>['at']>();
  for (const row of rows) if (!first.has(row.orderId)) first.set(row.orderId, spotOf(row).at);
  const of = group(rows, (r) => r.orderId);
  const locations = new Map([...of].map(([id, own]) => [id, new Set(own.flatMap((r) => r.locationId ?? []))] as const));
  return { positions: first, locations };
}

/** What it cost is for the desk; everything else of an event the rules need. */
function withoutCosts({ at, recordedAt, act, onSite }: OrderEvent): OrderEvent {
  const shared = { at, recordedAt, ...(onSite && { onSite }) };
  if (act.kind !== 'done') return { ...shared, act };
  const { effort: _, ...done } = act;
  return { ...shared, act: done };
}

export async function readOrdersOf(
  db: Db,
  who: Person,
  asked: readonly OrderId[],
  now: Instant,
): Promise<{ orders: FieldOrder[] }> {
  const stamps = await ownStamps(db, who, asked, now);
  const ids = [...stamps.keys()];
  if (ids.length === 0) return { orders: [] };
  const [loaded, { positions, locations }, curves, shows] = await Promise.all([
    loadOrders(db, ids, 'look'),
    placesOf(db, ids),
    alertCurves(db, ids, now),
    showsPrice(db, who),
  ]);
  const assets = [...new Set(loaded.flatMap((o) => o.lines.flatMap((l) => l.assetId ?? [])))];
  const [last, meters, parts, alsoHere] = await Promise.all([
    lastWorks(db, assets),
    metersOfAssets(db, assets),
    partsOf(db, assets),
    alsoHereOf(
      db,
      loaded.map((o) => o.order),
      locations,
    ),
  ]);
  const orders = await Promise.all(
    loaded.map(async ({ order, facts, events, lines }): Promise<FieldOrder> => {
      const [page, { needs }, comesTo] = await Promise.all([
        readOrderAs(db, who, order.id, now),
        needsShown(db, order.id),
        shows ? comesToOf(db, order.id) : null,
      ]);
      return {
        ...{ stamp: stamps.get(order.id) as string, page, facts, events: events.map(withoutCosts) },
        ...{ position: positions.get(order.id) ?? null, alsoHere: alsoHere(order.id), comesTo },
        machines: lines.map(({ id: lineId, assetId }) => {
          const own = page.lines.find((l) => l.id === lineId);
          return {
            ...{ lineId, assetId, tag: own?.tag ?? '', serial: own?.serial ?? '' },
            parts: (assetId === null ? [] : (parts.get(assetId) ?? [])).map(({ parentId: __, ...p }) => p),
            last: assetId === null ? [] : (last.get(assetId) ?? []),
            meters: assetId === null ? [] : (meters.get(assetId) ?? []),
          };
        }),
        alerts: curves
          .filter((c) => c.orderId === order.id)
          .map(({ orderId: _, channel, ...c }) => ({
            ...{ ...c, rule: `${c.rule}: ${channel}` },
            points: c.points.flatMap(({ at, value }) => (value === null ? [] : [{ at, value }])),
          })),
        bring: needs.map((n) => ({
          ...{ partId: n.part.id, number: n.part.number, name: n.part.name, unit: n.part.unit, lineId: n.lineId },
          ...{ wanted: n.wanted, used: n.used, open: n.open },
          inVan: n.holds.filter((h) => h.kind === 'van').reduce((sum, h) => sum + h.thousandths, 0),
          held: n.holds.map((h) => h.store.name),
        })),
      };
    }),
  );
  return { orders };
}
