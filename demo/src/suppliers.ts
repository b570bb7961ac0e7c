// The demo's four suppliers, what each has, and what is on its way: one order that is late, one for an order that waits, one to be sent.
import { asc, eq } from 'drizzle-orm';
import type { PartId, PersonId, StoreId, SupplierId } from '#core/ids.ts';
import { addDays, DAY, instant, type Instant, type LocalDate } from '#core/time/index.ts';
import { bulkInsert, type Database, type Tx } from '#server/platform/database.ts';
import { part, partNeed, person, purchase, purchaseFor, purchaseLine, store, supplier } from '#server/tables.ts';

/** Name, address, days to deliver, and the beginnings of part numbers it has. */
const SUPPLIERS: readonly (readonly [string, string, number, readonly string[], string])[] = [
  ['Ondrel Supply', 'orders@ondrel.example.org', 4, ['TN', 'PL', 'CR', 'GE'], 'O'],
  ['Quarvo Parts', 'encomendas@quarvo.example.org', 6, ['ST', 'WD', 'GE'], 'Q-'],
  ['Belunta', '', 9, ['WP', 'WD', 'BS'], 'BL/'],
  ['Sarvik Instruments', 'sales@sarvik.example.org', 14, ['IN', 'CF', 'BS', 'TN'], 'SV'],
];

export async function writeSuppliers({ db, connection }: Tx): Promise<void> {
  const parts = await db.select().from(part).orderBy(asc(part.id));
  for (const [at, [name, email, leadDays, has, letters]] of SUPPLIERS.entries()) {
    const [made] = await db.insert(supplier).values({ name, email, leadDays }).$returningId();
    const own = parts.filter((p) => has.includes(p.number.slice(0, 2)));
    await bulkInsert(
      connection,
      'part_supplier',
      ['part_id', 'supplier_id', 'number', 'unit_price', 'pack', 'lead_days', 'preferred'],
      own.map((p, i) => [
        ...[p.id, made?.id, `${letters}${4100 + at * 700 + i * 13}`],
        // Of one nobody asked the price yet; the later suppliers are a little dearer.
        p.number === 'CF-LL-02' ? null : Math.round(p.cost * (1 + at * 0.03)),
        ...[p.cost < 1000 ? 10_000 : 1000, p.serialTracked ? leadDays + 7 : null, 0],
      ]),
    );
  }
}

type Ordered = {
  readonly supplier: string;
  readonly daysAgo: number;
  readonly sent: boolean;
  readonly lines: readonly (readonly [number: string, pieces: number, promisedIn: number | null])[];
};
const ORDERED: readonly Ordered[] = [
  {
    supplier: 'Quarvo Parts',
    daysAgo: 8,
    sent: true,
    lines: [
      ['ST-SL-150', 1, -1],
      ['ST-LM-08', 4, -1],
    ],
  },
  { supplier: 'Belunta', daysAgo: 2, sent: true, lines: [['WP-MB-80', 6, 6]] },
  {
    supplier: 'Ondrel Supply',
    daysAgo: 0,
    sent: false,
    lines: [
      ['TN-SR-110', 8, null],
      ['GE-RF-404', 10, null],
    ],
  },
];

async function order(
  tx: Tx,
  of: Ordered,
  to: StoreId,
  by: PersonId,
  partOf: ReadonlyMap<string, typeof part.$inferSelect>,
  now: Instant,
  today: LocalDate,
): Promise<void> {
  const [from] = await tx.db.select().from(supplier).where(eq(supplier.name, of.supplier));
  const at = instant(now - of.daysAgo * DAY);
  const [made] = await tx.db
    .insert(purchase)
    .values({
      ...{ supplierId: from?.id as SupplierId, storeId: to, createdBy: by, createdAt: at },
      ...{ stage: of.sent ? 'sent' : 'draft', sentAt: of.sent ? at : null, sentTo: of.sent ? (from?.email ?? '') : '' },
    })
    .$returningId();
  for (const [number, pieces, promisedIn] of of.lines) {
    const { id: partId, cost } = partOf.get(number) as { id: PartId; cost: number };
    const thousandths = pieces * 1000;
    const [line] = await tx.db
      .insert(purchaseLine)
      .values({
        ...{ purchaseId: made?.id as never, partId, thousandths, toCome: thousandths, unitPrice: cost },
        promisedOn: promisedIn === null ? null : addDays(today, promisedIn),
      })
      .$returningId();
    let left = thousandths;
    const waiting = await tx.db.select().from(partNeed).where(eq(partNeed.partId, partId)).orderBy(asc(partNeed.id));
    for (const need of waiting) {
      const some = of.sent ? Math.min(left, need.open) : 0;
      if (some === 0) continue;
      left -= some;
      await tx.db.insert(purchaseFor).values({ lineId: line?.id as never, needId: need.id, thousandths: some });
    }
  }
}

/** Once it is known what orders wait for. */
export const writePurchases = (database: Database, now: Instant, today: LocalDate): Promise<void> =>
  database.transact(async (tx) => {
    const [to] = await tx.db.select().from(store).where(eq(store.kind, 'depot')).orderBy(asc(store.id));
    const [by] = await tx.db.select().from(person).where(eq(person.role, 'coordinator')).orderBy(asc(person.id));
    const parts = new Map((await tx.db.select().from(part)).map((p) => [p.number, p]));
    if (to && by) for (const of of ORDERED) await order(tx, of, to.id, by.id, parts, now, today);
  });
