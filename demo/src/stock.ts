// The demo's stores: one and a quarantine at each depot, a van for each technician, and what came into them and went over. Nothing is
// drawn by chance, so that the rest of the world stays as it is.
import { asc, eq } from 'drizzle-orm';
import type { PartId, StoreId } from '#core/ids.ts';
import { DAY, instant, type Instant } from '#core/time/index.ts';
import { bulkInsert, type Tx } from '#server/platform/database.ts';
import { appendMoves, type AskedMove } from '#server/stores/index.ts';
import { depot, part, person, stock, store, technician, usedPart } from '#server/tables.ts';

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

/** Came over a year ago, and nobody needed any since. */
const LYING = ['CR-DH-15', 'IN-GH-06'];

type Done = { readonly at: Instant; readonly write: () => Promise<void> };
type By = Pick<Parameters<typeof appendMoves>[1], 'personId' | 'orderId' | 'requestKey' | 'requestContent'>;

/** Two deliveries at each depot, the second dearer, after an old one of what lies still. */
function deliveries(tx: Tx, by: By, depots: readonly StoreId[], parts: readonly Part[], now: Instant): Done[] {
  return depots.flatMap((storeId, at) => {
    const bring = (daysAgo: number, text: string, moves: AskedMove[]): Done => ({
      at: instant(now - daysAgo * DAY),
      write: async () => {
        await appendMoves(tx, { ...by, kind: 'receipt', text, at: instant(now - daysAgo * DAY) }, moves);
      },
    });
    const old = parts.filter((p) => LYING.includes(p.number));
    return [
      bring(
        430,
        'delivery note 2960',
        old.map((p) => received(storeId, p, 2, Math.round(p.cost * 0.9), 0)),
      ),
      ...[62, 19].map((daysAgo, nth) => {
        // The second brings what runs low only.
        const brought = parts.filter((p, i) => p.number !== OUT && (nth === 0 || i % 3 !== 1));
        return bring(
          daysAgo,
          `delivery note ${4100 + at * 40 + nth * 7}`,
          brought.map((p) => {
            const n = nth === 0 ? keptOf(p) : Math.max(1, Math.floor(keptOf(p) / 2));
            const price = nth === 0 ? Math.round(p.cost * 0.96) : p.cost;
            return received(storeId, p, n, price, at * 200 + nth * 100);
          }),
        );
      }),
    ];
  });
}

/** What each van got of what goes out most. */
function loads(
  tx: Tx,
  by: By,
  { depots, vans }: Awaited<ReturnType<typeof writeStores>>,
  parts: readonly Part[],
  now: Instant,
): Done[] {
  const inVans = parts.filter((p) => !p.serialTracked && p.number !== OUT && keptOf(p) >= 8);
  return vans.map((van, i) => {
    const at = instant(now - (60 - i) * DAY);
    return {
      at,
      write: async () => {
        await appendMoves(
          tx,
          { ...by, kind: 'transfer', text: 'what a van has', at },
          inVans
            .filter((_, k) => (k + i) % 3 !== 0)
            .flatMap((p) => carried(depots[van.depotAt] as StoreId, van.id, p.id, keptOf(p) >= 40 ? 4 : 1)),
        );
      },
    };
  });
}

/** What was used on repairs left the stores: the van where it has the part by then, else its depot. */
async function uses(tx: Tx, by: By, { depots, vans }: Awaited<ReturnType<typeof writeStores>>): Promise<Done[]> {
  const rows = await tx.db
    .select({ used: usedPart, depotId: technician.depotId })
    .from(usedPart)
    .leftJoin(technician, eq(technician.personId, usedPart.personId))
    .orderBy(asc(usedPart.at), asc(usedPart.id));
  const held = await tx.db.select().from(store).orderBy(asc(store.id));
  const [first] = depots;
  if (first === undefined) return [];
  return rows.map(({ used, depotId }) => ({
    at: used.at,
    write: async () => {
      const van = vans.find((v) => held.find((s) => s.id === v.id)?.personId === used.personId)?.id;
      const home = held.find((s) => s.kind === 'depot' && s.depotId === depotId)?.id ?? first;
      const there = await tx.db.select().from(stock).where(eq(stock.partId, used.partId));
      const has = (id: StoreId): boolean => there.some((s) => s.storeId === id && s.onHand >= used.thousandths);
      // The first depot has the first unit.
      const other = van !== undefined && has(van) ? van : home;
      const storeId = used.serial !== null ? first : other;
      // What no store had was bought on the way.
      if (!has(storeId)) return;
      const { moves } = await appendMoves(tx, { ...by, kind: 'issue', text: '', orderId: used.orderId, at: used.at }, [
        {
          ...{ storeId, partId: used.partId, serials: used.serial === null ? [] : [used.serial], usedPartId: used.id },
          ...{ move: { kind: 'issue', thousandths: used.thousandths }, field: '' },
        },
      ]);
      const unitCost = Math.round((-(moves[0]?.money ?? 0) * 1000) / used.thousandths);
      await tx.db.update(usedPart).set({ storeId, unitCost }).where(eq(usedPart.id, used.id));
    },
  }));
}

/** All that came, went over and was used, in the order in which it happened. */
export async function writeStock(tx: Tx, now: Instant): Promise<number> {
  const [keeper] = await tx.db.select().from(person).where(eq(person.role, 'storekeeper')).orderBy(asc(person.id));
  const parts = await tx.db.select().from(part).orderBy(asc(part.id));
  const stores = await writeStores(tx);
  const by: By = { personId: keeper?.id ?? null, orderId: null, requestKey: null, requestContent: null };
  const done = [
    ...deliveries(tx, by, stores.depots, parts, now),
    ...loads(tx, by, stores, parts, now),
    ...(await uses(tx, by, stores)),
  ];
  for (const { write } of done.sort((a, b) => a.at - b.at)) await write();
  await bulkInsert(
    tx.connection,
    'shelf',
    ['store_id', 'part_id', 'bin', 'minimum', 'maximum'],
    stores.depots.flatMap((storeId) =>
      parts.map((p, i) => [
        ...[storeId, p.id, `${'ABCD'[i % 4] ?? 'A'}${1 + Math.floor(i / 4)}`],
        ...[Math.ceil(keptOf(p) / 2) * 1000, keptOf(p) * 2000],
      ]),
    ),
  );
  return stores.depots.length * 2 + stores.vans.length;
}
