// Picking: what a store holds for a day's work goes to the technicians' vans; what was not used comes back.
import { and, asc, eq, gt, inArray, sql } from 'drizzle-orm';
import { group } from 'd3-array';
import type { BodyOf } from '#api/contract.ts';
import type { bringBack, pick, ToBringOut, ToPickOut } from '#api/picking.ts';
import { orderNumber } from '#api/shapes.ts';
import type { NeedId, OrderId, PickId, StoreId } from '#core/ids.ts';
import { FINISHED_STAGES } from '#core/orders/index.ts';
import { holdStock, sayQuantity, THOUSANDTHS } from '#core/stores/index.ts';
import type { Instant, LocalDate } from '#core/time/index.ts';
import { workOrder } from '../orders/tables.ts';
import type { Database, Db, Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { accept, refuse } from '../platform/refuse.ts';
import { person } from '../platform/tables.ts';
import type { Write } from '../platform/writing.ts';
import { noteArrivals } from './arrivals.ts';
import { appendMoves, carried, holdStocks, keepStocks, stockKey, type Asked } from './ledger.ts';
import { once } from './moving.ts';
import { keepNeeds, underLock, type HeldNeed } from './needs.ts';
import { part, partNeed, pickLine, serialUnit, shelf, stockHold, store } from './tables.ts';
import { insertUse } from './used.ts';

const MOST_ROWS = 1000;
const van = sql<StoreId | null>`(select v.id from store v where v.person_id = ${workOrder.technicianId})`;
const vanName = sql<string | null>`(select v.name from store v where v.person_id = ${workOrder.technicianId})`;

const nameOf = (id: number | null, name: string | null) => (id === null || name === null ? null : { id, name });

/** Refused: a store that is not. */
async function mustBeStore(db: Db, id: StoreId): Promise<void> {
  const [known] = await db.select({ id: store.id }).from(store).where(eq(store.id, id));
  if (!known) refuse('not-found', 'That store does not exist.');
}

export async function pickingOf(db: Db, id: StoreId, day: LocalDate): Promise<{ rows: ToPickOut[]; more: boolean }> {
  await mustBeStore(db, id);
  const rows = await db
    .select({
      ...{ need: partNeed, held: stockHold.thousandths, part, bin: shelf.bin, title: workOrder.title },
      ...{ technicianId: workOrder.technicianId, technician: person.name, vanId: van, vanName },
    })
    .from(stockHold)
    .innerJoin(partNeed, eq(partNeed.id, stockHold.needId))
    .innerJoin(workOrder, eq(workOrder.id, partNeed.orderId))
    .innerJoin(part, eq(part.id, stockHold.partId))
    .leftJoin(shelf, and(eq(shelf.storeId, stockHold.storeId), eq(shelf.partId, stockHold.partId)))
    .leftJoin(person, eq(person.id, workOrder.technicianId))
    .where(and(eq(stockHold.storeId, id), eq(workOrder.plannedFor, day)))
    .orderBy(asc(shelf.bin), asc(part.number), asc(partNeed.id))
    .limit(MOST_ROWS + 1);
  const shown = rows.slice(0, MOST_ROWS);
  const tracked = [...new Set(shown.filter((r) => r.part.serialTracked).map((r) => r.part.id))];
  const units =
    tracked.length === 0
      ? []
      : await db
          .select()
          .from(serialUnit)
          .where(and(eq(serialUnit.storeId, id), inArray(serialUnit.partId, tracked)))
          .orderBy(asc(serialUnit.serial));
  const serialsOf = group(units, (u) => u.partId);
  return {
    rows: shown.map(({ need, part: p, ...r }): ToPickOut => ({
      ...{ needId: need.id, order: { id: need.orderId, title: r.title }, thousandths: r.held, bin: r.bin ?? '' },
      technician: nameOf(r.technicianId, r.technician),
      van: r.vanId === id ? null : nameOf(r.vanId, r.vanName),
      part: { id: p.id, name: p.name, number: p.number, unit: p.unit, serialTracked: p.serialTracked },
      serials: (serialsOf.get(p.id) ?? []).map((u) => u.serial),
      notPicked: need.notPicked,
    })),
    more: rows.length > MOST_ROWS,
  };
}

type PickBody = BodyOf<typeof pick>;
type Picked = PickBody['lines'][number] & {
  readonly at: string;
  readonly before: HeldNeed;
  readonly to: StoreId | null;
  readonly orderId: OrderId;
};

/** The needs with who goes, held; refused: what the store does not hold for them, or less without a reason. */
async function pickedOf(tx: Tx, storeId: StoreId, lines: PickBody['lines']): Promise<Picked[]> {
  const held = await underLock(
    tx,
    inArray(
      partNeed.id,
      lines.map((l) => l.needId),
    ),
  );
  const orders = [...new Set(held.map((h) => h.need.orderId))];
  const vans =
    orders.length === 0
      ? []
      : await tx.db.select({ id: workOrder.id, van }).from(workOrder).where(inArray(workOrder.id, orders));
  const seen = new Set<NeedId>();
  return lines.map((line, i) => {
    const at = `lines.${i}.`;
    const before = held.find((h) => h.need.id === line.needId);
    const here = before?.holds.find((h) => h.storeId === storeId)?.thousandths ?? 0;
    if (!before || here === 0 || seen.has(line.needId))
      refuse('conflict', 'It is not held here any more; look at the list again.', `${at}needId`);
    seen.add(line.needId);
    if (line.thousandths > here) refuse('conflict', `${sayQuantity(here)} are held for it here.`, `${at}thousandths`);
    if (line.thousandths < here && line.why === '')
      refuse('missing', 'Say why less was picked than is held.', `${at}why`);
    const to = vans.find((o) => o.id === before.need.orderId)?.van ?? null;
    return { ...line, at, before, to, orderId: before.need.orderId };
  });
}

/** What is held of needs follows what was picked: in the van now, and the reason where less was. */
async function keepPicked(tx: Tx, from: StoreId, picked: readonly Picked[]): Promise<void> {
  const arrived = picked.filter((p) => p.thousandths > 0);
  const stocks = await holdStocks(
    tx,
    arrived.map((p) => ({ storeId: p.to as StoreId, partId: p.before.need.partId })),
  );
  for (const { to, before, thousandths } of arrived) {
    const key = stockKey(to as StoreId, before.need.partId);
    const there = stocks.get(key);
    if (there) stocks.set(key, { ...there, ...accept(holdStock(there, thousandths)) });
  }
  await keepStocks(tx, stocks);
  await keepNeeds(
    tx,
    picked.map(({ before, to, thousandths, why }) => {
      const { need, holds } = before;
      const at = new Map(holds.map((h) => [h.storeId, h.thousandths]));
      at.set(from, (at.get(from) ?? 0) - thousandths);
      if (to !== null && thousandths > 0) at.set(to, (at.get(to) ?? 0) + thousandths);
      return {
        ...{ before, need: { ...need, notPicked: why || null } },
        holds: [...at].flatMap(([storeId, n]) => (n > 0 ? [{ storeId, thousandths: n }] : [])),
      };
    }),
  );
}

/** Handed to somebody without a van it counts as used: what is left they bring back. */
async function handOver(tx: Tx, who: Person, from: StoreId, picked: readonly Picked[], now: Instant): Promise<void> {
  for (const { before, thousandths, serials, orderId, why, at } of picked) {
    const { need } = before;
    const [known] = await tx.db.select().from(part).where(eq(part.id, need.partId));
    if (!known) refuse('not-found', 'That part does not exist any more.', `${at}needId`);
    const units = known.serialTracked ? thousandths / THOUSANDTHS : 0;
    if (serials.length !== units) {
      const right = known.serialTracked ? `is kept by serial: give one for each, ${units} in all.` : 'has no serials.';
      refuse('missing', `${known.name} ${right}`, `${at}serials`);
    }
    const of = { orderId, lineId: need.orderLineId, partId: need.partId, storeId: from };
    // Each serial is used by itself.
    const uses = known.serialTracked
      ? serials.map((serial) => ({ ...of, thousandths: 1000, serial }))
      : [{ ...of, thousandths, serial: null }];
    if (thousandths > 0) for (const use of uses) await insertUse(tx, who, use, known, now);
    await tx.db
      .update(partNeed)
      .set({ notPicked: why || null })
      .where(eq(partNeed.id, need.id));
  }
}

export const pickFrom = (
  database: Database,
  write: Write,
  who: Person,
  storeId: StoreId,
  body: PickBody,
  now: Instant,
): Promise<{ id: number }> => {
  const asked = { ...body, text: '', pickedFrom: storeId };
  return once(database, write, asked, { kind: 'transfer', personId: who.id, at: now }, async (tx, told, act) => {
    const picked = await pickedOf(tx, storeId, body.lines);
    const isCarried = (p: Picked): boolean => p.to !== null && p.to !== storeId;
    const [toVans, handed] = [picked.filter(isCarried), picked.filter((p) => !isCarried(p))];
    const some = toVans.filter((p) => p.thousandths > 0);
    const { id } = await appendMoves(
      tx,
      act,
      some.flatMap(({ to, before, thousandths, serials, at }) =>
        carried(storeId, to as StoreId, {
          partId: before.need.partId,
          thousandths,
          held: thousandths,
          serials,
          field: at,
        }),
      ),
    );
    await keepPicked(tx, storeId, toVans);
    await noteArrivals(
      tx,
      id,
      some.map((p) => p.to as StoreId),
      who,
      now,
    );
    if (some.length > 0)
      await tx.db.insert(pickLine).values(
        some.map(({ before, to, orderId, thousandths }) => ({
          ...{ actId: id, needId: before.need.id, orderId, partId: before.need.partId },
          ...{ fromId: storeId, toId: to as StoreId, thousandths },
        })),
      );
    await handOver(tx, who, storeId, handed, now);
    for (const orderId of new Set(picked.filter((p) => p.thousandths > 0).map((p) => p.orderId)))
      told({ subject: 'order', id: orderId, text: `parts picked for ${orderNumber(orderId)}` });
    for (const p of picked.filter((x) => x.why !== ''))
      told({ subject: 'order', id: p.orderId, text: `not all was picked: ${p.why}` });
    return id;
  });
};

const usedFromVan = sql<string>`coalesce((select sum(u.thousandths) from used_part u
  where u.order_line_id = ${partNeed.orderLineId} and u.part_id = ${pickLine.partId} and u.store_id = ${pickLine.toId}), 0)`;

/** What was picked for orders that are over, less what was used of it there. */
const leftOf = (db: Db, which: Parameters<typeof and>[0]) =>
  db
    .select({ pick: pickLine, need: partNeed, title: workOrder.title, stage: workOrder.stage, part, used: usedFromVan })
    .from(pickLine)
    .innerJoin(partNeed, eq(partNeed.id, pickLine.needId))
    .innerJoin(workOrder, eq(workOrder.id, pickLine.orderId))
    .innerJoin(part, eq(part.id, pickLine.partId))
    .where(
      and(
        which,
        inArray(workOrder.stage, [...FINISHED_STAGES]),
        gt(sql`${pickLine.thousandths} - ${pickLine.back}`, 0),
      ),
    )
    .orderBy(asc(pickLine.id))
    .limit(MOST_ROWS + 1);

/** Several picks for one need: the use eats up the first ones. */
function leftByPick(rows: Awaited<ReturnType<typeof leftOf>>): Map<PickId, number> {
  const left = new Map<PickId, number>();
  for (const own of group(rows, (r) => `${r.need.id} ${r.pick.toId}`).values()) {
    let used = Number(own[0]?.used ?? 0);
    for (const { pick: p } of own) {
      const open = p.thousandths - p.back;
      const eaten = Math.min(open, used);
      used -= eaten;
      left.set(p.id, open - eaten);
    }
  }
  return left;
}

export async function toBringTo(db: Db, id: StoreId): Promise<{ rows: ToBringOut[]; more: boolean }> {
  await mustBeStore(db, id);
  const rows = await leftOf(db, eq(pickLine.fromId, id));
  const left = leftByPick(rows);
  const stores = await db.select({ id: store.id, name: store.name }).from(store);
  const named = new Map(stores.map((s) => [s.id, s]));
  return {
    rows: rows.slice(0, MOST_ROWS).flatMap(({ pick: p, title, stage, part: of }): ToBringOut[] => {
      const [from, to, thousandths] = [named.get(p.toId), named.get(p.fromId), left.get(p.id) ?? 0];
      if (!from || !to || thousandths === 0) return [];
      return [
        {
          ...{ pickId: p.id, order: { id: p.orderId, title, stage }, van: from, to, thousandths },
          part: { id: of.id, name: of.name, number: of.number, unit: of.unit, serialTracked: of.serialTracked },
        },
      ];
    }),
    more: rows.length > MOST_ROWS,
  };
}

export const bringBackTo = (
  database: Database,
  write: Write,
  who: Person,
  storeId: StoreId,
  body: BodyOf<typeof bringBack>,
  now: Instant,
): Promise<{ id: number }> => {
  const asked = { ...body, text: 'brought back', broughtTo: storeId };
  return once(database, write, asked, { kind: 'transfer', personId: who.id, at: now }, async (tx, told, act, freed) => {
    const ids = body.lines.map((l) => l.pickId);
    await tx.db.select({ id: pickLine.id }).from(pickLine).where(inArray(pickLine.id, ids)).for('update');
    const rows = await leftOf(tx.db, and(eq(pickLine.fromId, storeId), inArray(pickLine.id, ids)));
    const left = leftByPick(rows);
    const moves = body.lines.flatMap((line, i): Asked[] => {
      const row = rows.find((r) => r.pick.id === line.pickId);
      const most = left.get(line.pickId) ?? 0;
      const at = `lines.${i}.`;
      if (!row || most === 0)
        refuse('conflict', 'It came back already, or was used; look at the list again.', `${at}pickId`);
      if (line.thousandths > most) refuse('conflict', `${sayQuantity(most)} of it are out still.`, `${at}thousandths`);
      const { thousandths, serials } = line;
      return carried(row.pick.toId, storeId, { partId: row.pick.partId, thousandths, serials, field: at });
    });
    const { id } = await appendMoves(tx, act, moves);
    for (const { pickId, thousandths } of body.lines)
      await tx.db
        .update(pickLine)
        .set({ back: sql`${pickLine.back} + ${thousandths}` })
        .where(eq(pickLine.id, pickId));
    await freed(
      tx,
      moves.map((m) => m.partId),
    );
    told({ subject: 'store', id: storeId, text: `${body.lines.length} parts brought back` });
    return id;
  });
};
