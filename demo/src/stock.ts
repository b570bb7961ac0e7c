// The demo's stores: one and a quarantine at each depot, a van for each technician, and what came into them and went over. Nothing is
// drawn by chance, so that the rest of the world stays as it is.
import { asc, eq } from 'drizzle-orm';
import type { PartId, StoreId } from '#core/ids.ts';
import { DAY, instant, type Instant } from '#core/time/index.ts';
import { bulkInsert, type Tx } from '#server/platform/database.ts';
import { appendMoves, type AskedMove } from '#server/stores/index.ts';
import { depot, part, person, store, technician } from '#server/tables.ts';

type Part = typeof part.$inferSelect;

/** How many a depot keeps: many of what is cheap, few of what is dear. */
const keptOf = ({ cost }: Part): number => (cost < 1000 ? 40 : cost < 10_000 ? 8 : cost < 50_000 ? 3 : 1);
/** Nobody has it any more. */
const OUT = 'WD-SA-01';
const serialsOf = ({ number, serialTracked }: Part, n: number, from: number): string[] =>
  serialTracked ? Array.from({ length: n }, (_, i) => `${number}-${1000 + from + i}`) : [];

async function writeStores(tx: Tx): Promise<{ depots: StoreId[]; vans: { id: StoreId; depotAt: number }[] }> {
  const depots = await tx.db.select().from(depot).orderBy(asc(depot.id));
  const kept: StoreId[] = [];
  for (const d of depots) {
    const [own] = await tx.db.insert(store).values({ name: d.name, kind: 'depot', depotId: d.id }).$returningId();
    await tx.db.insert(store).values({ name: `${d.name}, quarantine`, kind: 'quarantine', depotId: d.id });
    kept.push(own?.id as StoreId);
  }
  const goers = await tx.db
    .select({ id: person.id, depotId: technician.depotId, van: technician.van })
    .from(technician)
    .innerJoin(person, eq(person.id, technician.personId))
    .orderBy(asc(person.id));
  const vans: { id: StoreId; depotAt: number }[] = [];
  for (const [i, { id: personId, depotId, van }] of goers.entries()) {
    const depotAt = Math.max(
      0,
      depots.findIndex((d) => d.id === depotId),
    );
    const values = {
      name: van || `Van ${i + 1}`,
      kind: 'van' as const,
      depotId: depots[depotAt]?.id as never,
      personId,
    };
    const [own] = await tx.db.insert(store).values(values).$returningId();
    vans.push({ id: own?.id as StoreId, depotAt });
  }
  return { depots: kept, vans };
}

const received = (storeId: StoreId, of: Part, n: number, unitPrice: number, from: number): AskedMove => ({
  ...{ storeId, partId: of.id, serials: serialsOf(of, n, from), unitPrice, field: '' },
  move: { kind: 'receipt', thousandths: n * 1000, unitPrice },
});

const carried = (from: StoreId, to: StoreId, partId: PartId, n: number): AskedMove[] => [
  { storeId: from, partId, serials: [], move: { kind: 'transfer out', thousandths: n * 1000 }, field: '' },
  { storeId: to, partId, serials: [], move: { kind: 'transfer in', thousandths: n * 1000, money: 0 }, field: '' },
];

/** Two deliveries at each depot, the second dearer, and what each van got of what goes out most. */
export async function writeStock(tx: Tx, now: Instant): Promise<number> {
  const [keeper] = await tx.db.select().from(person).where(eq(person.role, 'storekeeper')).orderBy(asc(person.id));
  const parts = await tx.db.select().from(part).orderBy(asc(part.id));
  const { depots, vans } = await writeStores(tx);
  const act = {
    personId: keeper?.id ?? null,
    orderId: null,
    requestKey: null,
    requestContent: null,
  };
  for (const [at, storeId] of depots.entries())
    for (const [nth, daysAgo] of [62, 19].entries()) {
      const note = `delivery note ${4100 + at * 40 + nth * 7}`;
      // The second brings what runs low only.
      const brought = parts.filter((p, i) => p.number !== OUT && (nth === 0 || i % 3 !== 1));
      await appendMoves(
        tx,
        { ...act, kind: 'receipt', text: note, at: instant(now - daysAgo * DAY) },
        brought.map((p) => {
          const n = nth === 0 ? keptOf(p) : Math.max(1, Math.floor(keptOf(p) / 2));
          const price = nth === 0 ? Math.round(p.cost * 0.96) : p.cost;
          return received(storeId, p, n, price, at * 200 + nth * 100);
        }),
      );
    }
  const inVans = parts.filter((p) => !p.serialTracked && p.number !== OUT && keptOf(p) >= 8);
  for (const [i, van] of vans.entries())
    await appendMoves(
      tx,
      { ...act, kind: 'transfer', text: 'what a van has', at: instant(now - (12 - i) * DAY) },
      inVans
        .filter((_, k) => (k + i) % 3 !== 0)
        .flatMap((p) => carried(depots[van.depotAt] as StoreId, van.id, p.id, keptOf(p) >= 40 ? 4 : 1)),
    );
  await bulkInsert(
    tx.connection,
    'shelf',
    ['store_id', 'part_id', 'bin', 'minimum', 'maximum'],
    depots.flatMap((storeId) =>
      parts.map((p, i) => [
        ...[storeId, p.id, `${'ABCD'[i % 4] ?? 'A'}${1 + Math.floor(i / 4)}`],
        ...[Math.ceil(keptOf(p) / 2) * 1000, keptOf(p) * 2000],
      ]),
    ),
  );
  return depots.length * 2 + vans.length;
}
