// What runs low: each part that a store keeps between a minimum and a maximum, gone through day by day with what comes and what work takes.
import { and, eq, gt, inArray, isNull, lte, sql } from 'drizzle-orm';
import { group } from 'd3-array';
import type { DepotId, PartId, StoreId } from '#core/ids.ts';
import { projectStock, THOUSANDTHS, usualSupplier, type Dated, type Offered } from '#core/stores/index.ts';
import { addDays, localDateAt, type Instant, type LocalDate, type Zone } from '#core/time/index.ts';
import { jobPlan } from '../catalogue/tables.ts';
import { workOrder } from '../orders/tables.ts';
import { bareRows, bulkInsert, type Database, type Db } from '../platform/database.ts';
import { instantText } from '../platform/columns.ts';
import { announce } from '../platform/live.ts';
import { plannedVisit, schedule, scheduleOutlook } from '../upkeep/tables.ts';
import { stockKey } from './ledger.ts';
import { partSupplier, purchase, purchaseLine, reorderProposal, supplier } from './purchase-tables.ts';
import { storeSettings } from './settings.ts';
import { partNeed, store } from './tables.ts';

/** Of a part that nobody sells. */
const UNKNOWN_LEAD = 7;
/** No delivery takes longer. */
const MOST_DAYS = 730;
const UTC = 'UTC' as Zone;

type Takes = Map<string, Dated[]>;
const put = (to: Takes, key: string, dated: Dated): void => {
  const there = to.get(key);
  if (there) there.push(dated);
  else to.set(key, [dated]);
};

type Kept = [StoreId, PartId, minimum: number, maximum: number, free: number, onHand: number];

// A house has hundreds of thousands of these: they are asked for as plainly as can be.
const KEPT = `SELECT k.store_id, k.part_id, k.minimum, k.maximum, COALESCE(s.on_hand - s.reserved, 0), COALESCE(s.on_hand, 0)
  FROM shelf k JOIN store w ON w.id = k.store_id AND w.retired = 0
  LEFT JOIN stock s ON s.store_id = k.store_id AND s.part_id = k.part_id
  WHERE k.minimum IS NOT NULL AND k.maximum IS NOT NULL`;
const kept = async (db: Db): Promise<Kept[]> => (await bareRows(db, KEPT, [])) as Kept[];

async function offersOfAll(db: Db): Promise<(id: PartId) => Offered | null> {
  const rows = await db
    .select({ of: partSupplier, usual: supplier.leadDays })
    .from(partSupplier)
    .innerJoin(supplier, and(eq(supplier.id, partSupplier.supplierId), eq(supplier.retired, false)));
  const of = group(rows, (r) => r.of.partId);
  return (id) => usualSupplier((of.get(id) ?? []).map(({ of: o, usual }) => ({ ...o, leadDays: o.leadDays ?? usual })));
}

/** What comes, by the day it is promised for; of what nobody promised yet, in the supplier's usual time. Of all parts, or of one. */
export async function comingTo(db: Db, today: LocalDate, of?: PartId): Promise<Takes> {
  const rows = await db
    .select({
      ...{ storeId: purchase.storeId, partId: purchaseLine.partId, thousandths: purchaseLine.toCome },
      ...{ promisedOn: purchaseLine.promisedOn, leadDays: supplier.leadDays },
    })
    .from(purchaseLine)
    .innerJoin(purchase, eq(purchase.id, purchaseLine.purchaseId))
    .innerJoin(supplier, eq(supplier.id, purchase.supplierId))
    .where(
      and(
        gt(purchaseLine.toCome, 0),
        inArray(purchase.stage, ['draft', 'sent']),
        of === undefined ? undefined : eq(purchaseLine.partId, of),
      ),
    );
  const coming: Takes = new Map();
  for (const { storeId, partId, thousandths, promisedOn, leadDays } of rows)
    put(coming, stockKey(storeId, partId), { day: promisedOn ?? addDays(today, leadDays), thousandths });
  return coming;
}

/** The store that work of a depot takes its parts from: the first of its own, else the first of all. */
export async function storesOfDepots(db: Db): Promise<(id: DepotId | null) => StoreId | undefined> {
  const depots = await db
    .select({ depotId: store.depotId, id: sql<StoreId>`min(${store.id})` })
    .from(store)
    .where(and(eq(store.kind, 'depot'), eq(store.retired, false)))
    .groupBy(store.depotId);
  const first = depots.map((d) => d.id).sort((a, b) => a - b)[0];
  return (id) => depots.find((d) => d.depotId === id)?.id ?? first;
}

/** Open needs of orders by depot and day, of all parts or of one; null: no day is known. */
export async function neededOf(db: Db, of?: PartId) {
  const day = sql<LocalDate | null>`coalesce(${workOrder.plannedFor}, ${workOrder.wishedOn}, ${workOrder.nextDue})`;
  const rows = await db
    .select({
      ...{ depotId: workOrder.depotId, partId: partNeed.partId, day },
      thousandths: sql<string>`sum(${partNeed.open})`,
    })
    .from(partNeed)
    .innerJoin(workOrder, eq(workOrder.id, partNeed.orderId))
    .where(and(gt(partNeed.open, 0), isNull(partNeed.anyway), of === undefined ? undefined : eq(partNeed.partId, of)))
    .groupBy(workOrder.depotId, partNeed.partId, day);
  return rows.map((r) => ({ ...r, thousandths: Number(r.thousandths) }));
}

/** What work takes beside what is held: open needs of orders, and upkeep to come by the parts of its job plans. */
async function takenBy(db: Db, today: LocalDate, until: LocalDate): Promise<Takes> {
  const [storeOf, needs, visits, plans] = await Promise.all([
    storesOfDepots(db),
    neededOf(db),
    db
      .select({
        ...{ depotId: scheduleOutlook.depotId, day: plannedVisit.planned, n: sql<number>`count(*)` },
        plan: sql<number>`coalesce(${plannedVisit.jobPlanId}, ${schedule.jobPlanId})`,
      })
      .from(plannedVisit)
      .innerJoin(schedule, eq(schedule.id, plannedVisit.scheduleId))
      .innerJoin(scheduleOutlook, eq(scheduleOutlook.scheduleId, plannedVisit.scheduleId))
      .where(and(lte(plannedVisit.planned, until), isNull(plannedVisit.absorbedBy)))
      .groupBy(scheduleOutlook.depotId, plannedVisit.planned, sql`4`),
    db.select({ id: jobPlan.id, parts: jobPlan.parts }).from(jobPlan),
  ]);
  const partsOf = new Map(plans.map((p) => [p.id as number, p.parts ?? []]));
  const takes: Takes = new Map();
  for (const { depotId, partId, day: on, thousandths } of needs) {
    const at = storeOf(depotId);
    if (at) put(takes, stockKey(at, partId), { day: on ?? today, thousandths });
  }
  for (const { depotId, day: on, n, plan } of visits) {
    const at = storeOf(depotId);
    if (at)
      for (const { partId, thousandths } of partsOf.get(Number(plan)) ?? [])
        put(takes, stockKey(at, partId), { day: on, thousandths: thousandths * Number(n) });
  }
  return takes;
}

const sumUntil = (all: readonly Dated[], until: LocalDate): number =>
  all.reduce((sum, d) => sum + (d.day <= until ? d.thousandths : 0), 0);

/** Works out what runs low, and writes it over what was worked out before; gives how many there are. */
export async function keepProposals(database: Database, now: Instant): Promise<number> {
  const { db } = database;
  const today = localDateAt(UTC, now);
  const [rows, offerOf, { reviewDays }] = [await kept(db), await offersOfAll(db), await storeSettings(db)];
  const [coming, takes] = [await comingTo(db, today), await takenBy(db, today, addDays(today, MOST_DAYS))];
  const low = rows.flatMap(([storeId, partId, minimum, maximum, free, onHand]): unknown[][] => {
    const key = stockKey(storeId, partId);
    const [ordered, needs] = [coming.get(key) ?? [], takes.get(key) ?? []];
    // Of what nothing is taken there is no less later.
    if (needs.length === 0 && free >= minimum) return [];
    const offer = offerOf(partId);
    const leadDays = offer?.leadDays ?? UNKNOWN_LEAD;
    const { days, belowOn, propose } = projectStock({
      ...{ today, leadDays, reviewDays, onHand, reserved: onHand - free },
      ...{ ordered, needs, minimum, maximum, pack: offer?.pack ?? THOUSANDTHS },
    });
    if (belowOn === null || propose === 0) return [];
    const end = addDays(today, leadDays + reviewDays);
    return [
      [
        ...[storeId, partId, propose, belowOn, today, JSON.stringify(days.map((d) => d.thousandths))],
        ...[minimum, maximum, sumUntil(needs, end), sumUntil(ordered, end), leadDays, instantText(now)],
      ],
    ];
  });
  await database.transact(async (tx) => {
    await tx.db.delete(reorderProposal);
    await bulkInsert(tx.connection, 'reorder_proposal', COLUMNS, low);
    await announce(tx, { touches: ['stores'] });
  });
  return low.length;
}

const COLUMNS = [
  ...['store_id', 'part_id', 'propose', 'below_on', 'from_day', 'curve', 'minimum', 'maximum', 'needed', 'coming'],
  ...['lead_days', 'made_at'],
];
