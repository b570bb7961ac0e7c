// What is to be bought: what orders wait for and nobody ordered yet, and what runs low; by part and the store it is delivered to.
import { asc, inArray, sql, type SQL } from 'drizzle-orm';
import type { Asked } from '#api/contract.ts';
import type { readToBuy, ToBuyOut } from '#api/purchases.ts';
import type { NeedId, OrderId, PartId, StoreId } from '#core/ids.ts';
import { seesMoney, type Role } from '#core/people.ts';
import { inPacks, THOUSANDTHS, usualSupplier } from '#core/stores/index.ts';
import { addDays, localDateAt, type Instant, type LocalDate, type Zone } from '#core/time/index.ts';
import type { Db } from '../platform/database.ts';
import { readMark, sayMark } from './row-mark.ts';
import { offersOf } from './suppliers.ts';
import { storeSettings } from './settings.ts';
import { part, store } from './tables.ts';

const NO_DAY = '9999-12-31';

/** Open needs of near work that nobody bought for, each at the depot's store that its order is nearest to. */
const openNeeds = (until: LocalDate): SQL => sql`
  SELECT n.id AS need_id, n.order_id, n.part_id, n.open - COALESCE(f.coming, 0) AS lacks,
    COALESCE(o.planned_for, o.wished_on, o.next_due) AS day,
    COALESCE(d.id, (SELECT MIN(id) FROM store WHERE kind = 'depot' AND retired = 0)) AS store_id
  FROM part_need n
  JOIN work_order o ON o.id = n.order_id
  LEFT JOIN (SELECT need_id, SUM(thousandths) AS coming FROM purchase_for GROUP BY need_id) f ON f.need_id = n.id
  LEFT JOIN (SELECT depot_id, MIN(id) AS id FROM store WHERE kind = 'depot' AND retired = 0 GROUP BY depot_id) d
    ON d.depot_id = o.depot_id
  WHERE n.open > COALESCE(f.coming, 0) AND n.anyway IS NULL
    AND COALESCE(o.planned_for, o.wished_on, o.next_due, ${until}) <= ${until}`;

type Row = { part_id: PartId; store_id: StoreId; lacks: number; low: number; day: LocalDate | null };
type Need = {
  need_id: NeedId;
  order_id: OrderId;
  part_id: PartId;
  store_id: StoreId;
  lacks: number;
  day: LocalDate | null;
};

const rowsOf = async <T>(db: Db, query: SQL): Promise<T[]> => {
  const [rows] = (await db.execute(query)) as unknown as [T[]];
  return rows;
};

/** Both reasons to buy, together for each part and store; `supplier` as who is meant by itself. */
const both = (until: LocalDate): SQL => sql`
  SELECT t.part_id, t.store_id, SUM(t.lacks) AS lacks, SUM(t.low) AS low, MIN(COALESCE(t.day, ${NO_DAY})) AS day,
    (SELECT ps.supplier_id FROM part_supplier ps JOIN supplier s ON s.id = ps.supplier_id AND s.retired = 0
     WHERE ps.part_id = t.part_id
     ORDER BY ps.preferred DESC, COALESCE(ps.unit_price, 9e15), COALESCE(ps.lead_days, s.lead_days), ps.supplier_id
     LIMIT 1) AS supplier_id
  FROM (
    SELECT part_id, store_id, lacks, 0 AS low, day FROM (${openNeeds(until)}) needs
    UNION ALL
    SELECT r.part_id, r.store_id, 0, r.propose, r.below_on FROM reorder_proposal r
    JOIN store s ON s.id = r.store_id AND s.kind = 'depot'
  ) t
  WHERE t.store_id IS NOT NULL
  GROUP BY t.part_id, t.store_id`;

type Query = Asked<typeof readToBuy>['query'];

export async function toBuyShown(
  db: Db,
  { supplier: of, store: at, after, limit = 60 }: Query,
  { role, zone }: { readonly role: Role; readonly zone: Zone },
  now: Instant,
) {
  const { holdDays } = await storeSettings(db);
  const until = addDays(localDateAt(zone, now), holdDays);
  const from = readMark(after);
  const filters = [
    ...(of === undefined ? [] : [sql`b.supplier_id = ${of}`]),
    ...(at === undefined ? [] : [sql`b.store_id = ${at}`]),
  ];
  const behind = from ? [sql`(b.day, b.part_id, b.store_id) > (${from.day}, ${from.partId}, ${from.storeId})`] : [];
  const where = (all: readonly SQL[]): SQL => (all.length === 0 ? sql`` : sql`WHERE ${sql.join([...all], sql` AND `)}`);
  const [[counted], rows] = await Promise.all([
    rowsOf<{ n: number }>(db, sql`SELECT COUNT(*) AS n FROM (${both(until)}) b ${where(filters)}`),
    rowsOf<Row>(
      db,
      sql`SELECT b.* FROM (${both(until)}) b ${where([...filters, ...behind])} ORDER BY b.day, b.part_id, b.store_id LIMIT ${limit + 1}`,
    ),
  ]);
  const shown = rows.slice(0, limit);
  const last = shown.at(-1);
  return {
    items: await named(db, shown, until, role),
    total: Number(counted?.n ?? 0),
    next:
      rows.length > limit && last
        ? sayMark({ day: last.day ?? NO_DAY, partId: last.part_id, storeId: last.store_id })
        : null,
  };
}

async function named(db: Db, rows: readonly Row[], until: LocalDate, role: Role): Promise<ToBuyOut[]> {
  if (rows.length === 0) return [];
  const [partIds, storeIds] = [[...new Set(rows.map((r) => r.part_id))], [...new Set(rows.map((r) => r.store_id))]];
  const [parts, stores, offers, needs] = await Promise.all([
    db.select().from(part).where(inArray(part.id, partIds)),
    db.select({ id: store.id, name: store.name }).from(store).where(inArray(store.id, storeIds)).orderBy(asc(store.id)),
    offersOf({ db }, partIds),
    rowsOf<Need>(
      db,
      sql`SELECT * FROM (${openNeeds(until)}) n WHERE n.part_id IN ${partIds} ORDER BY n.day, n.need_id`,
    ),
  ]);
  return rows.flatMap((r): ToBuyOut[] => {
    const [of, at] = [parts.find((p) => p.id === r.part_id), stores.find((s) => s.id === r.store_id)];
    if (!of || !at) return [];
    const own = offers.get(of.id) ?? [];
    const usual = usualSupplier(own) as (typeof own)[number] | null;
    const [forNeeds, toReorder] = [Number(r.lacks), Number(r.low)];
    // What is reordered counts what work takes already.
    const propose = inPacks(Math.max(forNeeds, toReorder), usual?.pack ?? THOUSANDTHS);
    return [
      {
        part: { id: of.id, name: of.name, number: of.number, unit: of.unit },
        ...{ store: at, forNeeds, toReorder, propose, day: r.day === NO_DAY ? null : r.day },
        needs: needs
          .filter((n) => n.part_id === of.id && n.store_id === at.id)
          .map((n) => ({ needId: n.need_id, orderId: n.order_id, thousandths: Number(n.lacks), day: n.day })),
        supplier: usual ? { id: usual.supplierId, name: usual.name } : null,
        offers: own.map((o) => ({
          ...{ supplier: { id: o.supplierId, name: o.name }, pack: o.pack, leadDays: o.leadDays },
          unitPrice: seesMoney(role) ? o.unitPrice : null,
        })),
      },
    ];
  });
}
