// Units that are kept by serial: where each is and was, which machine it is part of, and a machine of its own made of it.
import { group } from 'd3-array';
import { and, asc, desc, eq, gt, inArray, isNotNull, like } from 'drizzle-orm';
import type { Asked } from '#api/contract.ts';
import type { becomeAsset, BuiltIn, listUnits, UnitLife, UnitOut } from '#api/part-life.ts';
import type { AssetId, PartId, UsedPartId } from '#core/ids.ts';
import { partWarrantyUntil, whereUnitIs, type MoveKind } from '#core/stores/index.ts';
import { localDateAt, type Instant, type Zone } from '#core/time/index.ts';
import { changeAsset, orTaken, registerAsset } from '../assets/index.ts';
import { asset } from '../assets/tables.ts';
import { orderLine } from '../orders/tables.ts';
import { escapeLike, type Db, type Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { refuse } from '../platform/refuse.ts';
import { person } from '../platform/tables.ts';
import type { Write } from '../platform/writing.ts';
import { moveSerial, part, serialUnit, stockMove, store, storeAct, usedPart } from './tables.ts';

type Step = {
  readonly serial: string;
  readonly at: Instant;
  readonly kind: MoveKind | 'built in';
  readonly thousandths: number;
  readonly storeId: number | null;
  readonly store: string | null;
  readonly orderId: number | null;
  readonly by: string | null;
  readonly text: string;
};
type Use = {
  readonly id: UsedPartId;
  readonly serial: string;
  readonly at: Instant;
  readonly orderId: number;
  readonly storeId: number | null;
  readonly by: string | null;
  readonly assetId: AssetId | null;
  readonly becameId: AssetId | null;
};

const usesOf = async (db: Db, partId: PartId, serials: readonly string[]): Promise<Map<string, Use>> => {
  const rows =
    serials.length === 0
      ? []
      : await db
          .select({
            ...{ id: usedPart.id, serial: usedPart.serial, at: usedPart.at, orderId: usedPart.orderId },
            ...{ storeId: usedPart.storeId, by: person.name, assetId: orderLine.assetId, becameId: usedPart.assetId },
          })
          .from(usedPart)
          .innerJoin(orderLine, eq(orderLine.id, usedPart.orderLineId))
          .leftJoin(person, eq(person.id, usedPart.personId))
          .where(and(eq(usedPart.partId, partId), inArray(usedPart.serial, [...serials])));
  return new Map(rows.map((r) => [r.serial as string, r as Use]));
};

/** What some units went through, each in the order in which it happened; built in out of no store of ours is a step as well. */
async function stepsOf(
  db: Db,
  partId: PartId,
  serials: readonly string[],
  uses: ReadonlyMap<string, Use>,
): Promise<ReadonlyMap<string, Step[]>> {
  if (serials.length === 0) return new Map();
  const moves = await db
    .select({
      ...{ serial: moveSerial.serial, at: storeAct.at, kind: stockMove.kind, thousandths: stockMove.thousandths },
      ...{ storeId: stockMove.storeId, store: store.name, orderId: storeAct.orderId, by: person.name },
      text: storeAct.text,
    })
    .from(moveSerial)
    .innerJoin(stockMove, and(eq(stockMove.id, moveSerial.moveId), eq(stockMove.partId, partId)))
    .innerJoin(storeAct, eq(storeAct.id, stockMove.actId))
    .innerJoin(store, eq(store.id, stockMove.storeId))
    .leftJoin(person, eq(person.id, storeAct.personId))
    .where(inArray(moveSerial.serial, [...serials]))
    .orderBy(asc(stockMove.id));
  const built = [...uses.values()].flatMap((u): Step[] =>
    u.storeId !== null
      ? []
      : [
          {
            ...{ serial: u.serial, at: u.at, kind: 'built in' as const, thousandths: 1000, storeId: null, store: null },
            ...{ orderId: u.orderId, by: u.by, text: '' },
          },
        ],
  );
  // Moves stand in the order of their acts; what is beside them goes by its time.
  const all: Step[] = [...moves, ...built].sort((a, b) => a.at - b.at);
  return group(all, (s) => s.serial);
}

async function machinesOf(db: Db, ids: readonly (AssetId | null)[]) {
  const wanted = [...new Set(ids.flatMap((id) => id ?? []))];
  const rows =
    wanted.length === 0
      ? []
      : await db
          .select({ id: asset.id, tag: asset.tag, maker: asset.maker, model: asset.model })
          .from(asset)
          .where(inArray(asset.id, wanted));
  const of = new Map(rows.map((r) => [r.id, { id: r.id, tag: r.tag, name: `${r.maker} ${r.model}` }]));
  return (id: AssetId | null) => (id === null ? null : (of.get(id) ?? null));
}

type Machines = Awaited<ReturnType<typeof machinesOf>>;

function placeOf(serial: string, steps: readonly Step[], use: Use | undefined, machine: Machines): UnitOut {
  const place = whereUnitIs(steps);
  const last = steps.at(-1);
  return {
    ...{ serial, place },
    store: place === 'in store' && last?.storeId ? { id: last.storeId, name: last.store ?? '' } : null,
    asset: place === 'built in' ? machine(use?.assetId ?? null) : null,
    orderId: place === 'built in' ? (use?.orderId ?? null) : null,
  };
}

type UnitsQuery = Asked<typeof listUnits>['query'];

/** Units that were ever in a store, and those built in out of none. */
export async function unitsOf(db: Db, partId: PartId, { q, after, limit = 60 }: UnitsQuery) {
  const called = q ? `%${escapeLike(q)}%` : undefined;
  const [known, used] = await Promise.all([
    db
      .select({ serial: serialUnit.serial })
      .from(serialUnit)
      .where(
        and(
          eq(serialUnit.partId, partId),
          called === undefined ? undefined : like(serialUnit.serial, called),
          after === undefined ? undefined : gt(serialUnit.serial, after),
        ),
      )
      .orderBy(asc(serialUnit.serial))
      .limit(limit + 1),
    db
      .select({ serial: usedPart.serial })
      .from(usedPart)
      .where(
        and(
          eq(usedPart.partId, partId),
          isNotNull(usedPart.serial),
          called === undefined ? undefined : like(usedPart.serial, called),
          after === undefined ? undefined : gt(usedPart.serial, after),
        ),
      )
      .orderBy(asc(usedPart.serial))
      .limit(limit + 1),
  ]);
  const serials = [...new Set([...known, ...used].flatMap((u) => u.serial ?? []))].sort((a, b) => (a < b ? -1 : 1));
  const shown = serials.slice(0, limit);
  const uses = await usesOf(db, partId, shown);
  const [steps, machine] = await Promise.all([
    stepsOf(db, partId, shown, uses),
    machinesOf(
      db,
      [...uses.values()].map((u) => u.assetId),
    ),
  ]);
  return {
    items: shown.map((s) => placeOf(s, steps.get(s) ?? [], uses.get(s), machine)),
    next: serials.length > limit ? (shown.at(-1) ?? null) : null,
  };
}

export async function unitLifeOf(db: Db, partId: PartId, serial: string, zone: Zone): Promise<UnitLife> {
  const [known] = await db.select().from(part).where(eq(part.id, partId));
  if (!known) refuse('not-found', 'That part does not exist.');
  const uses = await usesOf(db, partId, [serial]);
  const use = uses.get(serial);
  const steps = (await stepsOf(db, partId, [serial], uses)).get(serial) ?? [];
  if (steps.length === 0) refuse('not-found', `No unit of ${known.number} has the serial ${serial}.`, 'serial');
  const machine = await machinesOf(db, [use?.assetId ?? null, use?.becameId ?? null]);
  const is = placeOf(serial, steps, use, machine);
  const on = use && localDateAt(zone, use.at);
  return {
    part: { id: known.id, name: known.name, number: known.number, warrantyMonths: known.warrantyMonths },
    ...is,
    builtIn:
      is.place === 'built in' && use && on
        ? {
            ...{ usedPartId: use.id, on, warrantyUntil: partWarrantyUntil(known.warrantyMonths, on) },
            became: machine(use.becameId),
          }
        : null,
    steps: steps.map((s) => ({
      ...{ at: s.at, kind: s.kind, orderId: s.orderId, by: s.by, text: s.text },
      store: s.storeId === null ? null : { id: s.storeId, name: s.store ?? '' },
      asset: s.orderId !== null && s.orderId === use?.orderId ? machine(use.assetId) : null,
    })),
  };
}

/** Units that are part of a machine: built in on an order of it, and neither taken out nor sent back since. */
export async function builtInto(db: Db, assetId: AssetId, zone: Zone): Promise<{ items: BuiltIn[] }> {
  const rows = await db
    .select({ used: usedPart, part })
    .from(orderLine)
    .innerJoin(usedPart, and(eq(usedPart.orderLineId, orderLine.id), isNotNull(usedPart.serial)))
    .innerJoin(part, eq(part.id, usedPart.partId))
    .where(eq(orderLine.assetId, assetId))
    .orderBy(desc(usedPart.at), desc(usedPart.id));
  const machine = await machinesOf(
    db,
    rows.map((r) => r.used.assetId),
  );
  const items: BuiltIn[] = [];
  for (const [partId, own] of group(rows, (r) => r.part.id)) {
    const serials = own.map((r) => r.used.serial as string);
    const uses = await usesOf(db, partId, serials);
    const steps = await stepsOf(db, partId, serials, uses);
    for (const { used, part: of } of own) {
      const serial = used.serial as string;
      if (whereUnitIs(steps.get(serial) ?? []) !== 'built in') continue;
      const on = localDateAt(zone, used.at);
      items.push({
        ...{ usedPartId: used.id, part: { id: of.id, name: of.name, number: of.number }, serial, on },
        ...{ warrantyUntil: partWarrantyUntil(of.warrantyMonths, on), orderId: used.orderId },
        became: machine(used.assetId),
      });
    }
  }
  return { items };
}

/** The use of a unit that is still built into a machine, held until the end, with that machine. Refused: anything else. */
async function builtInUnderLock(tx: Tx, id: UsedPartId) {
  const [row] = await tx.db.select().from(usedPart).where(eq(usedPart.id, id)).for('update');
  if (!row) refuse('not-found', 'That use was taken back; look at the order again.');
  if (row.serial === null) refuse('unsupported', 'It is not kept by serial; only a unit becomes a machine.');
  if (row.assetId !== null) refuse('conflict', 'It is a machine of the register already.');
  const [host] = await tx.db
    .select({ asset })
    .from(orderLine)
    .innerJoin(asset, eq(asset.id, orderLine.assetId))
    .where(eq(orderLine.id, row.orderLineId));
  if (!host) refuse('conflict', 'Its order names no machine that it was built into.');
  const uses = await usesOf(tx.db, row.partId, [row.serial]);
  const steps = (await stepsOf(tx.db, row.partId, [row.serial], uses)).get(row.serial) ?? [];
  if (whereUnitIs(steps) !== 'built in') refuse('conflict', 'It is not built in any more.');
  return { row, serial: row.serial, host: host.asset };
}

/** The unit as a machine of the register within the one it was built into; warranted as its part is, or longer where the catalogue says so. */
export const becomeAssetOf = (
  db: Db,
  write: Write,
  who: Person,
  id: UsedPartId,
  body: Asked<typeof becomeAsset>['body'],
  now: Instant,
): Promise<{ id: AssetId }> => {
  const named = { maker: body.maker, serial: '', tag: body.tag };
  return orTaken(db, named, () =>
    write(async (tx, told) => {
      const { row, serial, host } = await builtInUnderLock(tx, id);
      named.serial = serial;
      const on = localDateAt(who.zone, row.at);
      const acting = { who, now, told };
      const { customerId, locationId, owner } = host;
      const made = await registerAsset(
        tx,
        { ...body, customerId, locationId, owner, serial, commissioned: on },
        acting,
      );
      const [known] = await tx.db.select({ months: part.warrantyMonths }).from(part).where(eq(part.id, row.partId));
      const [child] = await tx.db.select().from(asset).where(eq(asset.id, made.id));
      if (!child) throw new Error('A machine that was just registered is there.');
      const until = partWarrantyUntil(known?.months ?? 0, on);
      const isLonger = until !== null && (child.warrantyUntil === null || child.warrantyUntil < until);
      await changeAsset(
        tx,
        made.id,
        {
          ...{ version: child.version, serial, tag: child.tag, model: child.model, state: child.state },
          ...{ parentId: host.id, warrantyUntil: isLonger ? until : child.warrantyUntil },
          ...(isLonger && { warrantyFrom: on }),
        },
        acting,
      );
      await tx.db
        .update(usedPart)
        .set({ assetId: made.id, version: row.version + 1 })
        .where(eq(usedPart.id, id));
      return made;
    }),
  );
};
