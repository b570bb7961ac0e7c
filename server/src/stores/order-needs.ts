// Needs of an order as people see and change them: asked for by hand, held at a store they choose, gone without for a reason.
import { and, asc, eq, inArray, sql } from 'drizzle-orm';
import { group, sum } from 'd3-array';
import type { BodyOf } from '#api/contract.ts';
import type { goAnyway, holdForNeed, NeedOut, setNeed, takeInstead } from '#api/needs.ts';
import type { NeedId, OrderId, PartId, StoreId } from '#core/ids.ts';
import { isFinished } from '#core/orders/index.ts';
import { availableIn, holdStock, letGoOfStock, sayQuantity, type HeldAt } from '#core/stores/index.ts';
import type { Instant } from '#core/time/index.ts';
import { asset } from '../assets/tables.ts';
import { orderLine, workOrder } from '../orders/tables.ts';
import type { Database, Db, Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { accept, refuse, stale } from '../platform/refuse.ts';
import { person } from '../platform/tables.ts';
import type { Write } from '../platform/writing.ts';
import { thenCover } from './covering.ts';
import { holdStocks, keepStocks, stockKey, storesShared } from './ledger.ts';
import { askForParts, keepNeeds, letGo, needOfLine, needUnderLock, type HeldNeed } from './needs.ts';
import { freeNear } from './nearby.ts';
import { freeOfParts } from './part-use.ts';
import { purchaseFor, purchaseLine } from './purchase-tables.ts';
import { part, partAlternative, partNeed, shelf, stockHold, store, usedPart } from './tables.ts';
import { orderToBookOn } from './used.ts';

/** Stores named where a part is free; more are on the part's own page. */
const FREE_SHOWN = 6;

async function holdsOf(db: Db, ids: readonly NeedId[]) {
  if (ids.length === 0) return new Map<NeedId, never>();
  const rows = await db
    .select({ hold: stockHold, name: store.name, kind: store.kind, bin: shelf.bin })
    .from(stockHold)
    .innerJoin(store, eq(store.id, stockHold.storeId))
    .leftJoin(shelf, and(eq(shelf.storeId, stockHold.storeId), eq(shelf.partId, stockHold.partId)))
    .where(inArray(stockHold.needId, [...ids]))
    .orderBy(asc(store.kind), asc(store.name));
  return group(rows, (r) => r.hold.needId);
}

/** What was bought for needs and is to come. */
async function orderedFor(db: Db, ids: readonly NeedId[]): Promise<ReadonlyMap<NeedId, NeedOut['ordered']>> {
  if (ids.length === 0) return new Map();
  const rows = await db
    .select({ of: purchaseFor, purchaseId: purchaseLine.purchaseId, promisedOn: purchaseLine.promisedOn })
    .from(purchaseFor)
    .innerJoin(purchaseLine, eq(purchaseLine.id, purchaseFor.lineId))
    .where(inArray(purchaseFor.needId, [...ids]))
    .orderBy(asc(purchaseLine.promisedOn), asc(purchaseFor.lineId));
  return new Map(
    [...group(rows, (r) => r.of.needId)].map(([id, own]) => [
      id,
      own.map(({ of, purchaseId, promisedOn }) => ({ purchaseId, thousandths: of.thousandths, promisedOn })),
    ]),
  );
}

/** What stands in for some parts and is free somewhere. */
async function standIns(db: Db, ids: readonly PartId[]) {
  const rows =
    ids.length === 0
      ? []
      : await db
          .select({ of: partAlternative.partId, id: part.id, name: part.name, number: part.number })
          .from(partAlternative)
          .innerJoin(part, and(eq(part.id, partAlternative.otherId), eq(part.retired, false)))
          .where(inArray(partAlternative.partId, [...ids]))
          .orderBy(asc(part.number));
  const freeOf = await freeOfParts(db, [...new Set(rows.map((r) => r.id))]);
  return group(
    rows.flatMap(({ of, ...r }) => (freeOf(r.id) > 0 ? [{ of, other: { ...r, free: freeOf(r.id) } }] : [])),
    (r) => r.of,
  );
}

export async function needsShown(db: Db, orderId: OrderId): Promise<{ needs: NeedOut[]; over: boolean }> {
  const [[order], rows] = await Promise.all([
    db.select({ stage: workOrder.stage }).from(workOrder).where(eq(workOrder.id, orderId)),
    db
      .select({ need: partNeed, part, tag: asset.tag, by: person.name })
      .from(partNeed)
      .innerJoin(part, eq(part.id, partNeed.partId))
      .innerJoin(orderLine, eq(orderLine.id, partNeed.orderLineId))
      .leftJoin(asset, eq(asset.id, orderLine.assetId))
      .leftJoin(person, eq(person.id, partNeed.anywayBy))
      .where(eq(partNeed.orderId, orderId))
      .orderBy(asc(partNeed.orderLineId), asc(part.number)),
  ]);
  if (!order) refuse('not-found', 'That work order does not exist.');
  const lacking = [...new Set(rows.filter((r) => r.need.open > 0).map((r) => r.need.partId))];
  const ids = rows.map((r) => r.need.id);
  const [holds, ordered, instead, free] = await Promise.all([
    holdsOf(db, ids),
    orderedFor(db, ids),
    standIns(db, lacking),
    freeNear(
      db,
      lacking,
      rows.map((r) => r.need.orderLineId),
    ),
  ]);
  return {
    over: isFinished(order.stage),
    needs: rows.map(({ need, part: of, tag, by }): NeedOut => ({
      ...{ id: need.id, version: need.version, lineId: need.orderLineId, tag },
      part: { id: of.id, name: of.name, number: of.number, unit: of.unit, serialTracked: of.serialTracked },
      ...{ wanted: need.wanted, used: need.used, held: need.held, open: need.open },
      holds: (holds.get(need.id) ?? []).map(({ hold, name, kind, bin }) => ({
        ...{ store: { id: hold.storeId, name }, kind, bin: bin ?? '', thousandths: hold.thousandths },
      })),
      free:
        need.open === 0
          ? []
          : free(need.partId, need.orderLineId)
              .slice(0, FREE_SHOWN)
              .map((f) => ({
                ...{ store: { id: f.stock.storeId, name: f.name }, kind: f.kind, thousandths: availableIn(f.stock) },
                km: f.km === null ? null : Math.round(f.km),
              })),
      instead: need.open === 0 ? [] : (instead.get(need.partId) ?? []).map((r) => r.other),
      ...{ ordered: ordered.get(need.id) ?? [], notPicked: need.notPicked },
      anyway: need.anyway === null ? null : { reason: need.anyway, by },
    })),
  };
}

const usedSoFar = async (tx: Tx, { lineId, partId }: Pick<BodyOf<typeof setNeed>, 'lineId' | 'partId'>) => {
  const [row] = await tx.db
    .select({ n: sql<string | null>`sum(${usedPart.thousandths})` })
    .from(usedPart)
    .where(and(eq(usedPart.orderLineId, lineId), eq(usedPart.partId, partId)));
  return Number(row?.n ?? 0);
};

/** What is held beyond what is wanted now, taken from the last. */
function heldUpTo(holds: readonly HeldAt[], most: number): { kept: HeldAt[]; gone: HeldAt[] } {
  let left = most;
  const [kept, gone]: [HeldAt[], HeldAt[]] = [[], []];
  for (const { storeId, thousandths } of holds) {
    const stays = Math.min(left, thousandths);
    left -= stays;
    if (stays > 0) kept.push({ storeId, thousandths: stays });
    if (stays < thousandths) gone.push({ storeId, thousandths: thousandths - stays });
  }
  return { kept, gone };
}

/** The part, where the work at a machine may need so much of it. Refused: an order that is over, and what no part is needed in. */
async function partToNeed(
  tx: Tx,
  who: Person,
  orderId: OrderId,
  { lineId, partId, thousandths }: Pick<BodyOf<typeof setNeed>, 'lineId' | 'partId' | 'thousandths'>,
) {
  await orderToBookOn(tx, who, orderId, lineId);
  const [order] = await tx.db.select({ stage: workOrder.stage }).from(workOrder).where(eq(workOrder.id, orderId));
  if (order && isFinished(order.stage))
    refuse('wrong-stage', `The order is ${order.stage}: nothing more is needed for it.`, 'partId');
  const [known] = await tx.db.select().from(part).where(eq(part.id, partId));
  if (!known) refuse('not-found', 'That part does not exist; choose another.', 'partId');
  if (known.serialTracked && thousandths % 1000 !== 0)
    refuse('invalid', `${known.name} is kept by serial: whole units only.`, 'thousandths');
  return known;
}

/** A line needs so much of a part that it needed none of. What was used of it before counts. */
async function needAnew(
  tx: Tx,
  orderId: OrderId,
  body: Pick<BodyOf<typeof setNeed>, 'lineId' | 'partId' | 'thousandths'>,
  known: typeof part.$inferSelect,
  now: Instant,
): Promise<void> {
  const { lineId, partId, thousandths } = body;
  if (known.retired) refuse('conflict', `${known.number} is not offered any more; choose another.`, 'partId');
  if (thousandths <= 0) refuse('invalid', 'A quantity above 0.', 'thousandths');
  await askForParts(tx, [{ orderId, lineId, partId, thousandths }], now);
  const made = await needOfLine(tx, lineId, partId);
  const used = await usedSoFar(tx, body);
  if (made && used > 0) await keepNeeds(tx, [{ before: made, need: { ...made.need, used }, holds: [] }]);
}

export const setNeedOf = (
  database: Database,
  write: Write,
  who: Person,
  orderId: OrderId,
  body: BodyOf<typeof setNeed>,
  now: Instant,
): Promise<void> =>
  thenCover(database, now, (follow) =>
    write(async (tx, told) => {
      const { lineId, partId, thousandths, version } = body;
      const known = await partToNeed(tx, who, orderId, body);
      const before = await needOfLine(tx, lineId, partId);
      if ((before?.need.version ?? 0) !== version) stale({ id: partId, version: before?.need.version ?? 0 });
      if (before) await changeWanted(tx, before, thousandths);
      else await needAnew(tx, orderId, body, known, now);
      await follow(tx, { orders: [orderId], parts: [partId] });
      const said = thousandths === 0 ? 'no' : sayQuantity(thousandths);
      told({ subject: 'order', id: orderId, text: `needs ${said} ${known.number} ${known.name}` });
    }),
  );

/** Somebody on site asks for so much more of a part, whatever was asked for before. */
export const needMoreOf = (
  database: Database,
  write: Write,
  who: Person,
  orderId: OrderId,
  body: Pick<BodyOf<typeof setNeed>, 'lineId' | 'partId' | 'thousandths'>,
  now: Instant,
): Promise<void> =>
  thenCover(database, now, (follow) =>
    write(async (tx, told) => {
      const { lineId, partId, thousandths } = body;
      const known = await partToNeed(tx, who, orderId, body);
      const before = await needOfLine(tx, lineId, partId);
      if (before) await changeWanted(tx, before, before.need.wanted + thousandths);
      else await needAnew(tx, orderId, body, known, now);
      await follow(tx, { orders: [orderId], parts: [partId] });
      told({
        subject: 'order',
        id: orderId,
        text: `needs ${sayQuantity(thousandths)} more ${known.number} ${known.name}`,
      });
    }),
  );

async function changeWanted(tx: Tx, before: HeldNeed, wanted: number): Promise<void> {
  const { need, holds } = before;
  const { kept, gone } = heldUpTo(holds, Math.max(0, wanted - need.used));
  await letGo(tx, need.partId, gone);
  await keepNeeds(tx, [{ before, need: { ...need, wanted, version: need.version + 1 }, holds: kept }]);
}

/** The need and its order, held; refused: one that is gone, over, or was changed meanwhile. */
async function needToChange(tx: Tx, who: Person, id: NeedId, version: number): Promise<HeldNeed> {
  const [row] = await tx.db
    .select({ orderId: partNeed.orderId, lineId: partNeed.orderLineId })
    .from(partNeed)
    .where(eq(partNeed.id, id));
  if (!row) refuse('not-found', 'That need does not exist any more.');
  await orderToBookOn(tx, who, row.orderId, row.lineId);
  const held = await needUnderLock(tx, id);
  if (!held) refuse('not-found', 'That need does not exist any more.');
  if (held.need.over) refuse('wrong-stage', 'The order is over: nothing is held for it any more.');
  if (held.need.version !== version) stale({ id, version: held.need.version });
  return held;
}

export const holdForNeedOf = (
  database: Database,
  write: Write,
  who: Person,
  { id, store: storeId }: { readonly id: NeedId; readonly store: StoreId },
  { thousandths, version }: BodyOf<typeof holdForNeed>,
  now: Instant,
): Promise<void> =>
  thenCover(database, now, (follow) =>
    write(async (tx, told) => {
      const before = await needToChange(tx, who, id, version);
      const { need, holds } = before;
      const [where] = await storesShared(tx, [storeId]);
      if (!where) refuse('not-found', 'That store does not exist; choose another.', 'store');
      const [at] = await tx.db.select({ kind: store.kind }).from(store).where(eq(store.id, storeId));
      if (at?.kind === 'quarantine' && thousandths > 0)
        refuse('conflict', 'What lies in quarantine is held for nobody; carry it to another store first.', 'store');
      const others = holds.filter((h) => h.storeId !== storeId);
      const most = Math.max(0, need.wanted - need.used - sum(others, (h) => h.thousandths));
      if (thousandths > most)
        refuse('conflict', `Only ${sayQuantity(most)} more is wanted; let go of it elsewhere first.`, 'thousandths');
      const stocks = await holdStocks(tx, [{ storeId, partId: need.partId }]);
      const key = stockKey(storeId, need.partId);
      const there = stocks.get(key);
      if (!there) throw new Error('Stock that is held is there.');
      const was = holds.find((h) => h.storeId === storeId)?.thousandths ?? 0;
      const after =
        thousandths > was
          ? { ...there, ...accept(holdStock(there, thousandths - was)) }
          : letGoOfStock(there, was - thousandths);
      await keepStocks(tx, new Map([[key, after]]));
      await keepNeeds(tx, [
        {
          ...{ before, need: { ...need, version: need.version + 1 } },
          holds: thousandths === 0 ? others : [...others, { storeId, thousandths }],
        },
      ]);
      await follow(tx, { marks: [need.orderId] });
      told({
        subject: 'order',
        id: need.orderId,
        text: thousandths === 0 ? `nothing held in ${where.name}` : `${sayQuantity(thousandths)} held in ${where.name}`,
      });
    }),
  );

export const goAnywayOf = (
  database: Database,
  write: Write,
  who: Person,
  id: NeedId,
  { reason, version }: BodyOf<typeof goAnyway>,
  now: Instant,
): Promise<void> =>
  thenCover(database, now, (follow) =>
    write(async (tx, told) => {
      const before = await needToChange(tx, who, id, version);
      const { need, holds } = before;
      const decided = reason === '' ? { anyway: null, anywayBy: null } : { anyway: reason, anywayBy: who.id };
      await keepNeeds(tx, [{ before, need: { ...need, ...decided, version: need.version + 1 }, holds }]);
      await follow(tx, { marks: [need.orderId] });
      told({
        subject: 'order',
        id: need.orderId,
        text: reason === '' ? 'waits for the part after all' : `goes without the part: ${reason}`,
      });
    }),
  );

/** What is open is asked for of another part; what is held or used already stays as it is. */
export const takeInsteadOf = (
  database: Database,
  write: Write,
  who: Person,
  id: NeedId,
  { partId, version }: BodyOf<typeof takeInstead>,
  now: Instant,
): Promise<void> =>
  thenCover(database, now, (follow) =>
    write(async (tx, told) => {
      const before = await needToChange(tx, who, id, version);
      const { orderId, orderLineId: lineId, partId: was, wanted, open } = before.need;
      if (open === 0) refuse('conflict', 'Nothing of it is open any more.');
      const [known] = await tx.db
        .select({ number: part.number, name: part.name, retired: part.retired })
        .from(partAlternative)
        .innerJoin(part, eq(part.id, partAlternative.otherId))
        .where(and(eq(partAlternative.partId, was), eq(partAlternative.otherId, partId)));
      if (!known) refuse('not-found', 'That part does not stand in for it; choose another.', 'partId');
      if (known.retired) refuse('conflict', `${known.number} is not offered any more; choose another.`, 'partId');
      await changeWanted(tx, before, wanted - open);
      const there = await needOfLine(tx, lineId, partId);
      if (there) await changeWanted(tx, there, there.need.wanted + open);
      else await askForParts(tx, [{ orderId, lineId, partId, thousandths: open }], now);
      await follow(tx, { orders: [orderId], parts: [was, partId] });
      told({ subject: 'order', id: orderId, text: `takes ${known.number} ${known.name} instead` });
    }),
  );
