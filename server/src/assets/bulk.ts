// Many assets at once, twins, and lines of past work: what keeps a large register true.
import { and, count, desc, eq, inArray, isNotNull, like, ne, or, sql, type SQL } from 'drizzle-orm';
import fp from 'fastify-plugin';
import * as contracts from '#api/assets.ts';
import type { BulkEffect } from '#api/assets.ts';
import type { Asked } from '#api/contract.ts';
import type { AssetId } from '#core/ids.ts';
import { checkMerge, findTwins, planLife } from '#core/assets/index.ts';
import { spreadOf } from '#core/orders/index.ts';
import { localDateAt, type Instant } from '#core/time/index.ts';
import { escapeLike, bulkInsert, type Tx } from '../platform/database.ts';
import { seesMoney } from '#core/people.ts';
import { serve, type House, type Person } from '../platform/http.ts';
import { placesOf } from '../places/index.ts';
import { accept, refuse } from '../platform/refuse.ts';
import { endStays } from '../places/index.ts';
import { calendar } from '../calendars/tables.ts';
import { assetClass } from '../catalogue/tables.ts';
import { customer } from '../customers/tables.ts';
import { location } from '../places/tables.ts';
import { asset, assetEvent } from './tables.ts';
import { meter } from '../meters/tables.ts';
import { coverageLine } from '../agreements/tables.ts';
import { schedule, visit } from '../upkeep/tables.ts';
import { clock, orderForm, orderLine, workOrder } from '../orders/tables.ts';
import { alert, device } from '../signals/tables.ts';
import { instantText } from '../platform/columns.ts';

import { livingOf, lockAsset, mustBeTheirs, tell } from './routes.ts';
import { indexAssets } from './finder.ts';

type Change = Asked<typeof contracts.changeMany>['body']['change'];
type Row = typeof asset.$inferSelect;

type Plan = {
  readonly rows: readonly Row[];
  readonly effect: BulkEffect;
  readonly set: Partial<Row>;
  readonly text: string;
};

/** What a change does to each of the assets; preview and action stand on it. */
async function plan(tx: Tx, ids: readonly AssetId[], change: Change, who: Person, now: Instant): Promise<Plan> {
  const { db } = tx;
  const all = await db
    .select()
    .from(asset)
    .where(inArray(asset.id, [...ids]))
    .orderBy(asset.id)
    .for('update');
  const refused: BulkEffect['refused'] = [];
  const remarks: string[] = [];
  const rows: Row[] = [];
  let unchanged = all.length;
  const take = (row: Row, changes: boolean): void => {
    if (!changes) return;
    unchanged -= 1;
    rows.push(row);
  };
  const drop = (row: Row, reason: string): void => {
    unchanged -= 1;
    refused.push({ tag: row.tag, reason });
  };
  let set: Partial<Row> = {};
  let text: string = change.kind;
  switch (change.kind) {
    case 'class': {
      const [found] = await db.select().from(assetClass).where(eq(assetClass.id, change.classId));
      if (!found) refuse('not-found', 'That class does not exist; choose another.', 'change.classId');
      set = { classId: change.classId };
      text = `class → ${found.name}`;
      for (const row of all) take(row, row.classId !== change.classId);
      break;
    }
    case 'owner': {
      set = { owner: change.owner };
      text = `owner → ${change.owner}`;
      for (const row of all) take(row, row.owner !== change.owner);
      break;
    }
    case 'place': {
      const [node] = await db.select().from(location).where(eq(location.id, change.locationId));
      if (!node) refuse('not-found', 'That place does not exist; choose another.', 'change.locationId');
      set = { locationId: change.locationId };
      text = `moved to ${node.fullName}`;
      const fits = new Map<number, boolean>();
      for (const row of all) {
        if (!fits.has(row.customerId))
          fits.set(
            row.customerId,
            await mustBeTheirs(tx, row.customerId, change.locationId).then(
              () => true,
              () => false,
            ),
          );
        if (!fits.get(row.customerId)) drop(row, `“${node.name}” is not a place of its customer.`);
        else if (row.state === 'retired' || row.state === 'in store') drop(row, `It is ${row.state}.`);
        else take(row, row.locationId !== change.locationId);
      }
      break;
    }
    case 'calendar of their places': {
      const [found] =
        change.calendarId === null ? [] : await db.select().from(calendar).where(eq(calendar.id, change.calendarId));
      if (change.calendarId !== null && !found)
        refuse('not-found', 'That calendar does not exist; choose another.', 'change.calendarId');
      text = `calendar of the place → ${found?.name ?? 'from the place above'}`;
      const places = [...new Set(all.flatMap((r) => r.locationId ?? []))];
      const nodes = places.length === 0 ? [] : await db.select().from(location).where(inArray(location.id, places));
      const others =
        places.length === 0
          ? []
          : await db
              .select({ n: count() })
              .from(asset)
              .where(and(inArray(asset.locationId, places), sql`${asset.id} not in ${ids}`));
      for (const row of all) {
        if (row.locationId === null) drop(row, 'It stands at no place.');
        else take(row, nodes.find((n) => n.id === row.locationId)?.calendarId !== change.calendarId);
      }
      remarks.push(
        `${places.length} ${places.length === 1 ? 'place gets' : 'places get'} the calendar; ${others[0]?.n ?? 0} other assets stand there too.`,
      );
      break;
    }
    case 'retire': {
      text = `retired: ${change.reason}`;
      set = { state: 'retired', parentId: null, rentedSince: null };
      for (const row of all) {
        const life = planLife(
          livingOf(row),
          { kind: 'scrapped' },
          localDateAt(who.zone, now),
          localDateAt(who.zone, now),
        );
        if (row.state === 'retired') continue;
        if (life.ok) take(row, true);
        else drop(row, life.refusals[0]?.message ?? 'refused');
      }
      const [schedules] = await db
        .select({ n: count() })
        .from(schedule)
        .where(inArray(schedule.assetId, [...ids]));
      if (schedules && schedules.n > 0)
        remarks.push(`${schedules.n} schedules stop; the next upkeep run names them with the reason “retired”.`);
      break;
    }
  }
  return { rows, effect: { will: rows.length, unchanged, refused: refused.slice(0, 200), remarks }, set, text };
}

async function carryOut(tx: Tx, done: Plan, change: Change, who: Person, now: Instant): Promise<void> {
  const { rows, set, text } = done;
  if (rows.length === 0) return;
  const ids = rows.map((r) => r.id);
  if (change.kind === 'place') await endStays(tx, rows, localDateAt(who.zone, now));
  if (change.kind === 'calendar of their places')
    await tx.db
      .update(location)
      .set({ calendarId: change.calendarId, version: sql`${location.version} + 1` })
      .where(inArray(location.id, [...new Set(rows.flatMap((r) => r.locationId ?? []))]));
  else
    await tx.db
      .update(asset)
      .set({ ...set, version: sql`${asset.version} + 1` })
      .where(inArray(asset.id, ids));
  const kind = change.kind === 'retire' ? 'scrapped' : change.kind === 'place' ? 'moved' : 'changed';
  await bulkInsert(
    tx.connection,
    'asset_event',
    ['asset_id', 'kind', 'at', 'recorded_at', 'person_id', 'text'],
    ids.map((id) => [id, kind, instantText(now), instantText(now), who.id, text]),
  );
  if (change.kind === 'class' || change.kind === 'place') await indexAssets(tx, ids);
}

/** Where the kept one hangs: where it did, unless the one that goes is somewhere above it; then where that one did. */
async function parentAfterMerge(tx: Tx, kept: Row, gone: Row): Promise<AssetId | null> {
  const seen = new Set<AssetId>();
  for (let above = kept.parentId; above !== null && !seen.has(above);) {
    if (above === gone.id) return gone.parentId;
    seen.add(above);
    const [row] = await tx.db.select({ parentId: asset.parentId }).from(asset).where(eq(asset.id, above));
    above = row?.parentId ?? null;
  }
  return kept.parentId;
}

const TWINS_WITHIN = 20_000;

export const bulkRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { db } = house.database;
    serve(app, house, contracts.previewBulk, ({ body, who, now }) =>
      house.database.transact(async (tx) => (await plan(tx, body.ids, body.change, who, now)).effect),
    );
    serve(app, house, contracts.changeMany, ({ body, who, now, write }) =>
      write(async (tx, told) => {
        const done = await plan(tx, body.ids, body.change, who, now);
        await carryOut(tx, done, body.change, who, now);
        told({
          subject: 'asset',
          id: 0,
          text: `${done.rows.length} assets: ${done.text} (${done.rows
            .slice(0, 40)
            .map((r) => r.tag)
            .join(', ')}${done.rows.length > 40 ? ', …' : ''})`,
        });
        return done.effect;
      }),
    );

    serve(app, house, contracts.listTwins, async ({ query }) => {
      const own = await db
        .select({
          id: asset.id,
          customerId: asset.customerId,
          locationId: asset.locationId,
          maker: asset.maker,
          serialPlain: asset.serialPlain,
          tag: asset.tag,
        })
        .from(asset)
        .where(and(eq(asset.customerId, query.customer), ne(asset.state, 'retired')))
        .orderBy(asset.id)
        .limit(TWINS_WITHIN);
      const serials = [...new Set(own.map((a) => a.serialPlain))];
      const elsewhere = [];
      for (let i = 0; i < serials.length; i += 2000)
        elsewhere.push(
          ...(await db
            .select({
              id: asset.id,
              customerId: asset.customerId,
              locationId: asset.locationId,
              maker: asset.maker,
              serialPlain: asset.serialPlain,
              tag: asset.tag,
            })
            .from(asset)
            .where(
              and(
                inArray(asset.serialPlain, serials.slice(i, i + 2000)),
                ne(asset.customerId, query.customer),
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
        const row = rows.find((r) => r.asset.id === id)?.asset as Row;
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
    });

    serve(app, house, contracts.mergeAssets, ({ body, who, now, write }) =>
      write(async (tx, told) => {
        const [first, second] = [body.keptId, body.goneId].sort((a, b) => a - b) as [AssetId, AssetId];
        const locked =
          first === second ? [await lockAsset(tx, first)] : [await lockAsset(tx, first), await lockAsset(tx, second)];
        const kept = locked.find((r) => r.id === body.keptId) as Row;
        const gone = locked.find((r) => r.id === body.goneId) as Row;
        accept(checkMerge(kept, gone));
        const move = { assetId: kept.id };
        for (const table of [orderLine, orderForm, visit, schedule, coverageLine, clock, alert] as const)
          await tx.db.update(table).set(move).where(eq(table.assetId, gone.id));
        // A device or meter stays with the one that has it; a second of the same name stays behind with the other's history.
        const [[device1], meters] = await Promise.all([
          tx.db.select({ id: device.id }).from(device).where(eq(device.assetId, kept.id)),
          tx.db.select({ name: meter.name }).from(meter).where(eq(meter.assetId, kept.id)),
        ]);
        if (!device1) await tx.db.update(device).set(move).where(eq(device.assetId, gone.id));
        const names = meters.map((m) => m.name);
        await tx.db
          .update(meter)
          .set(move)
          .where(and(eq(meter.assetId, gone.id), names.length > 0 ? sql`${meter.name} not in ${names}` : undefined));
        const parentId = await parentAfterMerge(tx, kept, gone);
        await tx.db.update(asset).set({ parentId: kept.id }).where(eq(asset.parentId, gone.id));
        await tx.db
          .update(asset)
          .set({
            state: 'retired',
            parentId: null,
            rentedSince: null,
            tag: `${gone.tag.slice(0, 100)} (merged)`,
            version: gone.version + 1,
          })
          .where(eq(asset.id, gone.id));
        await tx.db
          .update(asset)
          .set({
            version: kept.version + 1,
            parentId,
            commissioned: kept.commissioned ?? gone.commissioned,
            warrantyUntil: kept.warrantyUntil ?? gone.warrantyUntil,
          })
          .where(eq(asset.id, kept.id));
        const at = now;
        const past = await tx.db.select().from(assetEvent).where(eq(assetEvent.assetId, gone.id));
        if (past.length > 0)
          await tx.db
            .insert(assetEvent)
            .values(past.map(({ id: _, ...e }) => ({ ...e, assetId: kept.id, text: `(as ${gone.tag}) ${e.text}` })));
        const [keptText, goneText] = [
          `merged with ${gone.tag} (${gone.maker} ${gone.serial}): its orders, visits and cover are here now`,
          `merged into ${kept.tag}`,
        ];
        await tell(tx, who, kept.id, 'merged', at, now, keptText);
        await tell(tx, who, gone.id, 'merged', at, now, goneText);
        await indexAssets(tx, [kept.id, gone.id]);
        told({ subject: 'asset', id: kept.id, text: keptText });
        told({ subject: 'asset', id: gone.id, text: goneText });
        return { done: true as const };
      }),
    );

    serve(app, house, contracts.searchHistory, async ({ query, who }) => {
      const money = seesMoney(who.role);
      const wanted: SQL[] = [isNotNull(workOrder.doneAt), eq(workOrder.kind, 'repair')];
      if (query.class) wanted.push(eq(asset.classId, query.class));
      if (query.model?.trim()) wanted.push(like(asset.model, `${escapeLike(query.model.trim())}%`));
      if (query.fault?.trim()) wanted.push(eq(orderLine.fault, query.fault.trim()));
      for (const word of (query.words ?? '')
        .split(/\s+/)
        .filter((w) => w !== '')
        .slice(0, 6)) {
        const text = `%${escapeLike(word)}%`;
        wanted.push(or(like(workOrder.title, text), like(orderLine.fault, text)) as SQL);
      }
      const lines = await db
        .select({
          orderId: workOrder.id,
          title: workOrder.title,
          fault: orderLine.fault,
          assetId: asset.id,
          tag: asset.tag,
          model: asset.model,
          customer: customer.name,
          doneAt: workOrder.doneAt,
          technician: workOrder.technician,
          labourMinutes: orderLine.labourMinutes,
          partsCost: orderLine.partsCost,
          otherCost: orderLine.otherCost,
        })
        .from(orderLine)
        .innerJoin(workOrder, eq(workOrder.id, orderLine.orderId))
        .innerJoin(asset, eq(asset.id, orderLine.assetId))
        .innerJoin(customer, eq(customer.id, workOrder.customerId))
        .where(and(...wanted))
        .orderBy(desc(workOrder.id))
        .limit(2000);
      const figures = (key: 'labourMinutes' | 'partsCost' | 'otherCost') =>
        spreadOf(lines.flatMap((l) => (l[key] === null ? [] : [l[key]])));
      const faults = new Map<string, number>();
      for (const { fault } of lines) if (fault) faults.set(fault, (faults.get(fault) ?? 0) + 1);
      return {
        total: lines.length,
        items: lines.slice(0, 100).map((l) => ({
          ...l,
          doneAt: l.doneAt as Instant,
          ...(!money && { partsCost: null, otherCost: null }),
        })),
        spreads: {
          labourMinutes: figures('labourMinutes'),
          partsCost: money ? figures('partsCost') : null,
          otherCost: money ? figures('otherCost') : null,
        },
        faults: [...faults]
          .map(([fault, n]) => ({ fault, count: n }))
          .sort((a, b) => b.count - a.count)
          .slice(0, 12),
      };
    });
  },
  { name: 'stavok-register-bulk-routes', dependencies: ['stavok-authentication'] },
);
