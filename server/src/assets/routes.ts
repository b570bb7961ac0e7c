// Assets: registering and changing them, and the acts of their lives. Every change is an event.
import { and, eq, inArray } from 'drizzle-orm';
import fp from 'fastify-plugin';
import { scraps } from '#core/people.ts';
import * as contracts from '#api/assets.ts';
import { orderNumber } from '#api/shapes.ts';
import type { AssetId, CustomerId, LocationId } from '#core/ids.ts';
import {
  actLeadingTo,
  checkParent,
  planLife,
  planSwap,
  rentedSinceAfter,
  type AssetChange,
  type AssetEventKind,
  type LifeAct,
  type LivingAsset,
} from '#core/assets/index.ts';
import { addDays, addMonths, asZone, localDateAt, startOfDay, type Instant, type LocalDate } from '#core/time/index.ts';
import { isTaken, type Db, type Tx } from '../platform/database.ts';
import { serve, type House, type Person } from '../platform/http.ts';
import { placesOf } from '../places/index.ts';
import { accept, refuse, stale } from '../platform/refuse.ts';
import { endStays } from '../places/index.ts';
import { assetClass, assetModel, classMeter } from '../catalogue/tables.ts';
import { customer } from '../customers/tables.ts';
import { location, locationShare } from '../places/tables.ts';
import { asset, assetEvent } from './tables.ts';
import { meter } from '../meters/tables.ts';

import { goingOver, handOver } from './hand-over.ts';
import { indexAssets } from './finder.ts';
import { plainSerial } from '#core/assets/index.ts';

const LABELS: Readonly<Record<string, string>> = {
  warrantyUntil: 'warranty until',
  warrantyFrom: 'warranty from',
  warrantyLabour: 'warranty labour %',
  warrantyParts: 'warranty parts %',
  warrantyTravel: 'warranty travel %',
  warrantyVisits: 'free visits',
  rentedSince: 'rented since',
  classId: 'class',
  parentId: 'part of',
};

export type AssetRow = typeof asset.$inferSelect;

export async function lockAsset(tx: Tx, id: AssetId): Promise<AssetRow> {
  const [row] = await tx.db.select().from(asset).where(eq(asset.id, id)).for('update');
  return row ?? refuse('not-found', 'That asset does not exist.');
}

export async function tell(
  tx: Tx,
  who: Person,
  id: AssetId,
  kind: AssetEventKind,
  at: Instant,
  recordedAt: Instant,
  text: string,
): Promise<void> {
  await tx.db.insert(assetEvent).values({ assetId: id, kind, at, recordedAt, personId: who.id, text });
}

/** A taken serial or tag is refused with the other asset, so that it can be opened. */
async function orTaken<T>(
  db: Db,
  body: { maker?: string; serial: string; tag: string },
  work: () => Promise<T>,
): Promise<T> {
  try {
    return await work();
  } catch (error) {
    if (!isTaken(error)) throw error;
    const message = String((error as { cause?: { sqlMessage?: string } }).cause?.sqlMessage ?? '');
    const byTag = message.includes('asset_tag');
    const [other] = await db
      .select({ id: asset.id, tag: asset.tag, serial: asset.serial, model: asset.model, customer: customer.name })
      .from(asset)
      .innerJoin(customer, eq(customer.id, asset.customerId))
      .where(
        byTag
          ? eq(asset.tag, body.tag)
          : and(eq(asset.serial, body.serial), body.maker ? eq(asset.maker, body.maker) : undefined),
      );
    const which = other ? `: ${other.model} ${other.tag} of ${other.customer} (/assets/${other.id})` : '';
    if (byTag) refuse('taken', `The tag ${body.tag} belongs to another asset${which}.`, 'tag');
    refuse('taken', `The serial ${body.serial} belongs to another asset of the same maker${which}.`, 'serial');
  }
}

async function checkNewParent(tx: Tx, id: AssetId, parentId: AssetId | null): Promise<void> {
  if (parentId === null) return;
  const parents = new Map<AssetId, AssetId | null>();
  for (let next: AssetId | null = parentId; next !== null && !parents.has(next);) {
    const [row]: { parentId: AssetId | null }[] = await tx.db
      .select({ parentId: asset.parentId })
      .from(asset)
      .where(eq(asset.id, next));
    if (!row) refuse('not-found', 'That asset does not exist; choose another.', 'parentId');
    parents.set(next, row.parentId);
    next = row.parentId;
  }
  const loop = checkParent(id, parentId, (a) => parents.get(a) ?? null);
  if (loop) refuse(loop.code, loop.message, loop.field);
}

/** A lookup for a machine offers only the customer’s own places and those shared with them; so does the server. */
export async function mustBeTheirs(
  tx: Tx,
  customerId: CustomerId,
  locationId: LocationId | null,
): Promise<string | null> {
  if (locationId === null) return null;
  const [row] = await tx.db.select().from(location).where(eq(location.id, locationId));
  if (!row) refuse('not-found', 'That place does not exist; choose another.', 'locationId');
  if (row.retiredOn) refuse('conflict', `“${row.name}” is retired; choose a place in use.`, 'locationId');
  const ids = row.path
    .split('/')
    .filter((x) => x !== '')
    .map((x) => Number(x) as LocationId);
  const [shared] = await tx.db
    .select({ id: locationShare.locationId })
    .from(locationShare)
    .where(and(eq(locationShare.customerId, customerId), inArray(locationShare.locationId, ids)));
  if (!shared)
    refuse('not-allowed', `“${row.fullName}” is not a place of this customer; share it with them first.`, 'locationId');
  return row.fullName;
}

function notFuture(date: LocalDate | null | undefined, today: LocalDate, field: string): void {
  if (date && date > today)
    refuse('in-the-future', `${date} lies in the future; an asset is registered once it is installed.`, field);
}

export const livingOf = (row: AssetRow): LivingAsset<AssetId, LocationId, CustomerId> => row;

/** Writes the change and keeps where it stood before; a machine of the own fleet is rented out from the day it stands at a place. */
async function apply(
  tx: Tx,
  change: AssetChange<AssetId, LocationId, CustomerId>,
  row: AssetRow,
  on: LocalDate,
  more: Partial<AssetRow> = {},
): Promise<void> {
  const { id, ...fields } = change;
  if (fields.locationId !== row.locationId || fields.customerId !== row.customerId) await endStays(tx, [row], on);
  await tx.db
    .update(asset)
    .set({ ...more, ...fields, rentedSince: rentedSinceAfter(row, fields, on), version: row.version + 1 })
    .where(eq(asset.id, id));
}

/** A state that is changed with other fields is an act of the asset's life like any other; nothing comes back from being retired. */
function stateAct(row: AssetRow, to: AssetRow['state'], on: LocalDate) {
  const act = actLeadingTo(row.state, to);
  if (act === null)
    refuse(
      'wrong-stage',
      row.state === 'in store'
        ? `${row.tag} is in store; install it at a place to put it in service.`
        : `${row.tag} is ${row.state}; it cannot become ${to}.`,
      'state',
    );
  return { act, change: accept(planLife<AssetId, LocationId, CustomerId>(livingOf(row), { kind: act }, on, on)) };
}

/** The instant of an act on a date: now, when it is today; else the middle of that day. */
function momentOf(on: LocalDate, who: Person, now: Instant): Instant {
  return on === localDateAt(who.zone, now) ? now : ((startOfDay(asZone(who.zone), on) + 12 * 3_600_000) as Instant);
}

export const assetRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { db } = house.database;

    serve(app, house, contracts.changeAsset, ({ params, body, who, now, write }) =>
      orTaken(db, body, () =>
        write(async (tx, told) => {
          const row = await lockAsset(tx, params.id);
          if (row.version !== body.version) stale(row);
          const { version, ...asked } = body;
          const today = localDateAt(who.zone, now);
          notFuture(asked.commissioned, today, 'commissioned');
          const begins = asked.warrantyFrom ?? asked.commissioned ?? row.warrantyFrom ?? row.commissioned;
          if (asked.warrantyUntil && begins && asked.warrantyUntil < begins)
            refuse('invalid', `The warranty ends before it begins (${begins}); give a later day.`, 'warrantyUntil');
          const fields = asked as Partial<AssetRow>;
          const changed = (Object.keys(fields) as (keyof AssetRow)[]).filter(
            (key) => fields[key] !== undefined && row[key] !== fields[key],
          );
          if (changed.length === 0) return { version: row.version };
          if (changed.includes('parentId')) await checkNewParent(tx, params.id, asked.parentId ?? null);
          const lived = changed.includes('state') ? stateAct(row, asked.state, today) : null;
          const more = { ...fields, serialPlain: plainSerial(asked.serial) };
          if (lived)
            await apply(
              tx,
              { ...lived.change, ...(lived.act !== 'scrapped' && { parentId: fields.parentId ?? row.parentId }) },
              row,
              today,
              more,
            );
          else
            await tx.db
              .update(asset)
              .set({ ...more, version: version + 1 })
              .where(eq(asset.id, params.id));
          await indexAssets(tx, [params.id]);
          const text = changed
            .map((key) => `${LABELS[key] ?? key} ${row[key] ?? 'none'} → ${fields[key] ?? 'none'}`)
            .join('; ');
          await tell(tx, who, params.id, lived?.act ?? 'changed', now, now, text);
          told({ subject: 'asset', id: params.id, text });
          return { version: version + 1 };
        }),
      ),
    );

    serve(app, house, contracts.addAsset, ({ body, who, now, write }) =>
      orTaken(db, body, () =>
        write(async (tx, told) => {
          const today = localDateAt(who.zone, now);
          notFuture(body.commissioned, today, 'commissioned');
          const [[owner], [known], [model]] = await Promise.all([
            tx.db.select({ id: customer.id }).from(customer).where(eq(customer.id, body.customerId)),
            tx.db.select({ id: assetClass.id }).from(assetClass).where(eq(assetClass.id, body.classId)),
            tx.db
              .select()
              .from(assetModel)
              .where(and(eq(assetModel.maker, body.maker), eq(assetModel.name, body.model))),
          ]);
          if (!owner) refuse('not-found', 'That customer does not exist; choose another.', 'customerId');
          if (!known) refuse('not-found', 'That class does not exist; choose another.', 'classId');
          const place = await mustBeTheirs(tx, body.customerId, body.locationId);
          const from = body.commissioned ?? today;
          const warranty =
            model && model.warrantyMonths > 0
              ? {
                  warrantyFrom: from,
                  warrantyUntil: addDays(addMonths(from, model.warrantyMonths), -1),
                  warrantyLabour: model.warrantyLabour,
                  warrantyParts: model.warrantyParts,
                  warrantyTravel: model.warrantyTravel,
                  warrantyVisits: model.warrantyVisits,
                }
              : {};
          const [made] = await tx.db
            .insert(asset)
            .values({
              ...body,
              ...warranty,
              serialPlain: plainSerial(body.serial),
              state: body.locationId === null ? 'in store' : 'in service',
              rentedSince: rentedSinceAfter(
                { owner: body.owner, rentedSince: null },
                { locationId: body.locationId, state: 'in service' },
                from,
              ),
            })
            .$returningId();
          const id = made?.id as AssetId;
          const meters = await tx.db.select().from(classMeter).where(eq(classMeter.classId, body.classId));
          if (meters.length > 0)
            await tx.db
              .insert(meter)
              .values(meters.map((m) => ({ assetId: id, name: m.name, unit: m.unit, channel: m.channel })));
          await indexAssets(tx, [id]);
          const text = place === null ? 'registered, in store' : `registered at ${place}`;
          await tell(tx, who, id, place === null ? 'registered' : 'installed', momentOf(from, who, now), now, text);
          told({ subject: 'asset', id, text });
          return { id };
        }),
      ),
    );

    serve(app, house, contracts.recordLife, ({ params, body, who, now, write }) =>
      write(async (tx, told) => {
        const row = await lockAsset(tx, params.id);
        if (row.version !== body.version) stale(row);
        const { act } = body;
        if (act.kind === 'scrapped' && !scraps(who.role))
          refuse('not-allowed', 'A technician takes a machine out of service; whoever keeps the register scraps it.');
        if (act.kind === 'installed' && act.locationId === null)
          refuse('missing', 'Choose the place it was installed at.', 'act.locationId');
        const change = accept(
          planLife<AssetId, LocationId, CustomerId>(
            livingOf(row),
            act as LifeAct<LocationId, AssetId>,
            body.on,
            localDateAt(who.zone, now),
          ),
        );
        const to = await mustBeTheirs(tx, row.customerId, change.locationId);
        await checkNewParent(tx, row.id, change.parentId);
        const [before] =
          row.locationId === null
            ? []
            : await tx.db.select({ name: location.fullName }).from(location).where(eq(location.id, row.locationId));
        await apply(tx, change, row, body.on);
        if (change.locationId !== row.locationId) await indexAssets(tx, [row.id]);
        const what =
          body.act.kind === 'moved'
            ? `moved from ${before?.name ?? 'no place'} to ${to ?? 'no place'}`
            : body.act.kind === 'installed'
              ? `installed at ${to}`
              : body.act.kind === 'removed'
                ? `removed from ${before?.name ?? 'no place'}, now in store`
                : body.act.kind;
        const text = body.text === '' ? what : `${what}: ${body.text}`;
        await tell(tx, who, row.id, body.act.kind, momentOf(body.on, who, now), now, text);
        told({ subject: 'asset', id: row.id, text });
        return { version: row.version + 1 };
      }),
    );

    const swapPair = async (tx: Tx, id: AssetId, newId: AssetId): Promise<[AssetRow, AssetRow]> => {
      // Locked in one order, so that two swaps of the same pair cannot wait for each other.
      const rows = await tx.db
        .select()
        .from(asset)
        .where(inArray(asset.id, [id, newId]))
        .orderBy(asset.id)
        .for('update');
      const [old, fresh] = [rows.find((r) => r.id === id), rows.find((r) => r.id === newId)];
      if (!old) refuse('not-found', 'That asset does not exist.');
      if (!fresh) refuse('not-found', 'That asset does not exist; choose another.', 'newAssetId');
      return [old, fresh];
    };

    serve(app, house, contracts.previewSwap, async ({ params, body, who, now }) => {
      const [[old], [fresh]] = await Promise.all([
        db.select().from(asset).where(eq(asset.id, params.id)),
        db.select().from(asset).where(eq(asset.id, body.newAssetId)),
      ]);
      if (!old) refuse('not-found', 'That asset does not exist.');
      if (!fresh) refuse('not-found', 'That asset does not exist; choose another.', 'newAssetId');
      accept(planSwap(livingOf(old), livingOf(fresh), body.oldGoes, body.on, localDateAt(who.zone, now)));
      const { lines, schedules, orders } = await goingOver(db, params.id, body.on);
      const [node] =
        old.locationId === null
          ? []
          : await db
              .select({ id: location.id, path: location.path })
              .from(location)
              .where(eq(location.id, old.locationId));
      return {
        place: (await placesOf(db, node ? [node] : [])).of(node?.id ?? null).label,
        coverageLines: lines.map((l) => `${l.agreement.number} ${l.agreement.name}`),
        schedules: schedules.map((s) => `${s.jobPlan}, ${s.agreement.number}`),
        openOrders: orders.map((o) => `${orderNumber(o.id)} ${o.title}`),
      };
    });

    serve(app, house, contracts.swapAsset, ({ params, body, who, now, write }) =>
      write(async (tx, told) => {
        const [old, fresh] = await swapPair(tx, params.id, body.newAssetId);
        if (old.version !== body.version) stale(old);
        const plan = accept(
          planSwap(livingOf(old), livingOf(fresh), body.oldGoes, body.on, localDateAt(who.zone, now)),
        );
        const { lines, schedules } = await goingOver(tx.db, old.id, body.on);
        await apply(tx, plan.out, old, body.on);
        await apply(tx, plan.in, fresh, body.on);
        // Parts of the old machine stay its parts; cover and schedules that name it go over from the day on.
        await handOver(tx, { lines, schedules }, fresh.id, body.on);
        await indexAssets(tx, [old.id, fresh.id]);
        const more = body.text === '' ? '' : `: ${body.text}`;
        const at = momentOf(body.on, who, now);
        const goes = body.oldGoes === 'scrapped' ? 'scrapped' : 'to store';
        const [outText, inText] = [
          `swapped out for ${fresh.tag}, ${goes}${more}`,
          `swapped in for ${old.tag}, with ${lines.length} coverage lines and ${schedules.length} schedules${more}`,
        ];
        await tell(tx, who, old.id, 'swapped out', at, now, outText);
        await tell(tx, who, fresh.id, 'swapped in', at, now, inText);
        told({ subject: 'asset', id: old.id, text: outText });
        told({ subject: 'asset', id: fresh.id, text: inText });
        return { coverageLines: lines.length, schedules: schedules.length };
      }),
    );

    serve(app, house, contracts.readScan, async ({ query }) => {
      const read = /\/assets\/tag\/([^/?#]+)/.exec(query.code)?.[1];
      const code = read === undefined ? query.code : decodeURIComponent(read);
      const [row] = await db.select({ id: asset.id }).from(asset).where(eq(asset.tag, code)).limit(1);
      const [bySerial] = row
        ? [row]
        : await db
            .select({ id: asset.id })
            .from(asset)
            .where(eq(asset.serialPlain, plainSerial(code)))
            .limit(1);
      return { assetId: bySerial?.id ?? null, read: code };
    });
  },
  { name: 'stavok-asset-routes', dependencies: ['stavok-authentication'] },
);
