// Two rows that may be one machine, and making one of them.
import { and, count, eq, inArray, ne, sql } from 'drizzle-orm';
import { checkMerge, findTwins } from '#core/assets/index.ts';
import type { AssetId, CustomerId } from '#core/ids.ts';
import { coverageLine } from '../agreements/tables.ts';
import { meter } from '../meters/tables.ts';
import { clock, formerDecision, orderForm, orderLine } from '../orders/tables.ts';
import { placesOf } from '../places/index.ts';
import { location } from '../places/tables.ts';
import type { Db, Tx } from '../platform/database.ts';
import { accept } from '../platform/refuse.ts';
import { alert, device } from '../signals/tables.ts';
import { schedule, visit } from '../upkeep/tables.ts';
import { lockAsset, type Acting } from './commands.ts';
import { recordFacts, type AssetRow, type AssetHappening } from './facts.ts';
import { indexAssets } from './finder.ts';
import { asset, assetEvent } from './tables.ts';

const TWINS_WITHIN = 20_000;

const ALIKE = {
  id: asset.id,
  customerId: asset.customerId,
  locationId: asset.locationId,
  maker: asset.maker,
  serialPlain: asset.serialPlain,
  tag: asset.tag,
};

export async function listTwins(db: Db, customerId: CustomerId) {
  const own = await db
    .select(ALIKE)
    .from(asset)
    .where(and(eq(asset.customerId, customerId), ne(asset.state, 'retired')))
    .orderBy(asset.id)
    .limit(TWINS_WITHIN);
  const serials = [...new Set(own.map((a) => a.serialPlain))];
  const elsewhere = [];
  for (let i = 0; i < serials.length; i += 2000)
    elsewhere.push(
      ...(await db
        .select(ALIKE)
        .from(asset)
        .where(
          and(
            inArray(asset.serialPlain, serials.slice(i, i + 2000)),
            ne(asset.customerId, customerId),
            ne(asset.state, 'retired'),
          ),
        )),
    );
  const pairs = findTwins([...own, ...elsewhere])
    .filter((p) => own.some((a) => a.id === p.a || a.id === p.b))
    .slice(0, 200);
  const ids = [...new Set(pairs.flatMap((p) => [p.a, p.b]))];
  if (ids.length === 0) return { items: [] };
  const [rows, orders] = await Promise.all([
    db
      .select({ asset, path: location.path })
      .from(asset)
      .leftJoin(location, eq(location.id, asset.locationId))
      .where(inArray(asset.id, ids)),
    db
      .select({ id: orderLine.assetId, n: count() })
      .from(orderLine)
      .where(inArray(orderLine.assetId, ids))
      .groupBy(orderLine.assetId),
  ]);
  const places = await placesOf(
    db,
    rows.map((r) => ({ id: r.asset.locationId, path: r.path })),
  );
  const out = (id: AssetId) => {
    const row = rows.find((r) => r.asset.id === id)?.asset as AssetRow;
    return {
      id: row.id,
      tag: row.tag,
      serial: row.serial,
      maker: row.maker,
      model: row.model,
      place: places.of(row.locationId).label,
      state: row.state,
      orders: orders.find((o) => o.id === id)?.n ?? 0,
      customerId: row.customerId,
    };
  };
  return {
    items: pairs.map((p) => {
      const [{ customerId: ca, ...a }, { customerId: cb, ...b }] = [out(p.a), out(p.b)];
      return { a, b, because: p.because, sameCustomer: ca === cb };
    }),
  };
}

/** Where the kept one hangs: where it did, unless the one that goes is somewhere above it; then where that one did. */
async function parentAfterMerge(tx: Tx, kept: AssetRow, gone: AssetRow): Promise<AssetId | null> {
  const seen = new Set<AssetId>();
  for (let above = kept.parentId; above !== null && !seen.has(above);) {
    if (above === gone.id) return gone.parentId;
    seen.add(above);
    const [row] = await tx.db.select({ parentId: asset.parentId }).from(asset).where(eq(asset.id, above));
    above = row?.parentId ?? null;
  }
  return kept.parentId;
}

/** What names the machine that goes names the kept one from here on. */
async function handOn(tx: Tx, kept: AssetId, gone: AssetId): Promise<void> {
  const move = { assetId: kept };
  for (const table of [orderLine, formerDecision, orderForm, visit, schedule, coverageLine, clock, alert] as const)
    await tx.db.update(table).set(move).where(eq(table.assetId, gone));
  // A device or meter stays with the one that has it; a second of the same name stays behind with the other's history.
  const [[device1], meters] = await Promise.all([
    tx.db.select({ id: device.id }).from(device).where(eq(device.assetId, kept)),
    tx.db.select({ name: meter.name }).from(meter).where(eq(meter.assetId, kept)),
  ]);
  if (!device1) await tx.db.update(device).set(move).where(eq(device.assetId, gone));
  const names = meters.map((m) => m.name);
  await tx.db
    .update(meter)
    .set(move)
    .where(and(eq(meter.assetId, gone), names.length > 0 ? sql`${meter.name} not in ${names}` : undefined));
}

export async function mergeAssets(tx: Tx, keptId: AssetId, goneId: AssetId, { who, now, told }: Acting): Promise<void> {
  const [first, second] = [keptId, goneId].sort((a, b) => a - b) as [AssetId, AssetId];
  const locked =
    first === second ? [await lockAsset(tx, first)] : [await lockAsset(tx, first), await lockAsset(tx, second)];
  const kept = locked.find((r) => r.id === keptId) as AssetRow;
  const gone = locked.find((r) => r.id === goneId) as AssetRow;
  const past = await tx.db.select().from(assetEvent).where(eq(assetEvent.assetId, gone.id));
  accept(checkMerge(kept, { ...gone, isMergedAway: past.some((e) => e.fact?.kind === 'merged away') }));
  await handOn(tx, kept.id, gone.id);
  // Read with the kept one from here on; what followed from them followed for the other row.
  if (past.length > 0)
    await tx.db
      .insert(assetEvent)
      .values(
        past.map(({ id: _, ...e }) => ({ ...e, assetId: kept.id, fact: null, text: `(as ${gone.tag}) ${e.text}` })),
      );
  const children = await tx.db
    .select({ id: asset.id })
    .from(asset)
    .where(and(eq(asset.parentId, gone.id), ne(asset.id, kept.id)));
  const [keptText, goneText] = [
    `merged with ${gone.tag} (${gone.maker} ${gone.serial}): its orders, visits and cover are here now`,
    `merged into ${kept.tag}`,
  ];
  const tag = `${gone.tag.slice(0, 100)} (merged)`;
  const set = {
    parentId: await parentAfterMerge(tx, kept, gone),
    commissioned: kept.commissioned ?? gone.commissioned,
    warrantyUntil: kept.warrantyUntil ?? gone.warrantyUntil,
  };
  const facts: AssetHappening[] = [
    ...children.map(({ id }): AssetHappening => ({
      assetId: id,
      kind: 'changed',
      fact: { kind: 'changed', set: { parentId: kept.id } },
      at: now,
      text: `part of ${kept.tag} now, with which ${gone.tag} was merged`,
    })),
    { assetId: kept.id, kind: 'merged', fact: { kind: 'merged', gone: gone.id, set }, at: now, text: keptText },
    { assetId: gone.id, kind: 'merged', fact: { kind: 'merged away', kept: kept.id, tag }, at: now, text: goneText },
  ];
  await recordFacts(tx, facts, { by: who.id, now });
  await indexAssets(tx, [kept.id, gone.id]);
  told({ subject: 'asset', id: kept.id, text: keptText });
  told({ subject: 'asset', id: gone.id, text: goneText });
}
