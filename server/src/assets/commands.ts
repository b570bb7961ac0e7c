// What is done to one asset: registered, changed, an act of its life, swapped for another. Each is told by its facts.
import { and, eq, inArray } from 'drizzle-orm';
import type * as contracts from '#api/assets.ts';
import type { Asked } from '#api/contract.ts';
import type { AssetId, CustomerId, LocationId } from '#core/ids.ts';
import { scraps } from '#core/people.ts';
import {
  actLeadingTo,
  checkParent,
  planLife,
  planSwap,
  plainSerial,
  rentedSinceAfter,
  sparingly,
  warrantyOf,
  type LifeAct,
  type LivingAsset,
  type OldGoes,
} from '#core/assets/index.ts';
import { asZone, localDateAt, startOfDay, type Instant, type LocalDate } from '#core/time/index.ts';
import { takenKey, type Db, type Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { accept, refuse, stale } from '../platform/refuse.ts';
import type { Told } from '../platform/writing.ts';
import { assetClass, assetModel, classMeter } from '../catalogue/tables.ts';
import { customer } from '../customers/tables.ts';
import { meter } from '../meters/tables.ts';
import { location, locationShare } from '../places/tables.ts';
import { recordFacts, recordOf, writeEvents, type AssetRow, type Fact } from './facts.ts';
import { indexAssets } from './finder.ts';
import { goingOver, handOver } from './hand-over.ts';
import { asset } from './tables.ts';

/** Who acts, and when. */
export type Acting = { readonly who: Person; readonly now: Instant; readonly told: Told };

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

export async function lockAsset(tx: Tx, id: AssetId, version?: number): Promise<AssetRow> {
  const [row] = await tx.db.select().from(asset).where(eq(asset.id, id)).for('update');
  if (!row) refuse('not-found', 'That asset does not exist.');
  if (version !== undefined && row.version !== version) stale(row);
  return row;
}

/** A taken serial or tag is refused with the other asset, so that it can be opened. */
export async function orTaken<T>(
  db: Db,
  body: { maker?: string; serial: string; tag: string },
  work: () => Promise<T>,
): Promise<T> {
  try {
    return await work();
  } catch (error) {
    const key = takenKey(error);
    if (key === null) throw error;
    const byTag = key === 'asset_tag';
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
  accept(planLife<AssetId, LocationId, CustomerId>(livingOf(row), { kind: act }, on, on));
  return act;
}

/** The instant of an act on a date: now, when it is today; else the middle of that day. */
function momentOf(on: LocalDate, who: Person, now: Instant): Instant {
  return on === localDateAt(who.zone, now) ? now : ((startOfDay(asZone(who.zone), on) + 12 * 3_600_000) as Instant);
}

type Change = Asked<typeof contracts.changeAsset>['body'];

export async function changeAsset(tx: Tx, id: AssetId, body: Change, { who, now, told }: Acting) {
  const row = await lockAsset(tx, id, body.version);
  const today = localDateAt(who.zone, now);
  notFuture(body.commissioned, today, 'commissioned');
  const begins = body.warrantyFrom ?? body.commissioned ?? row.warrantyFrom ?? row.commissioned;
  if (body.warrantyUntil && begins && body.warrantyUntil < begins)
    refuse('invalid', `The warranty ends before it begins (${begins}); give a later day.`, 'warrantyUntil');
  const { version: _, ...asked } = body;
  const held = recordOf(row);
  const changed = (Object.keys(asked) as (keyof typeof asked)[]).filter(
    (key) => asked[key] !== undefined && held[key] !== asked[key],
  );
  if (changed.length === 0) return { version: row.version };
  if (changed.includes('parentId')) await checkNewParent(tx, id, asked.parentId ?? null);
  const act = changed.includes('state') ? stateAct(row, asked.state, today) : null;
  const attributes = changed.filter((key) => key !== 'state');
  const saying = (keys: readonly (keyof typeof asked)[]): string =>
    keys.map((key) => `${LABELS[key] ?? key} ${held[key] ?? 'none'} → ${asked[key] ?? 'none'}`).join('; ');
  const set = Object.fromEntries(attributes.map((key) => [key, asked[key]]));
  const facts: { kind: 'changed' | NonNullable<typeof act>; fact: Fact; text: string }[] = [];
  if (attributes.length > 0) facts.push({ kind: 'changed', fact: { kind: 'changed', set }, text: saying(attributes) });
  if (act !== null) facts.push({ kind: act, fact: { kind: act, on: today }, text: saying(['state']) });
  await recordFacts(
    tx,
    facts.map((f) => ({ ...f, assetId: id, at: now })),
    { by: who.id, now },
  );
  await indexAssets(tx, [id]);
  told({ subject: 'asset', id, text: saying(changed) });
  return { version: row.version + 1 };
}

type NewAsset = Asked<typeof contracts.addAsset>['body'];

export async function registerAsset(tx: Tx, body: NewAsset, { who, now, told }: Acting) {
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
  const state = body.locationId === null ? ('in store' as const) : ('in service' as const);
  const is = {
    ...body,
    ...warrantyOf(model, from),
    state,
    rentedSince: rentedSinceAfter(
      { owner: body.owner, rentedSince: null },
      { locationId: body.locationId, state },
      from,
    ),
  };
  const [made] = await tx.db
    .insert(asset)
    .values({ ...is, serialPlain: plainSerial(body.serial) })
    .$returningId();
  const id = made?.id as AssetId;
  const meters = await tx.db.select().from(classMeter).where(eq(classMeter.classId, body.classId));
  if (meters.length > 0)
    await tx.db.insert(meter).values(meters.map(({ classId: _, ...m }) => ({ ...m, assetId: id })));
  await indexAssets(tx, [id]);
  const text = place === null ? 'registered, in store' : `registered at ${place}`;
  await writeEvents(
    tx,
    [
      {
        assetId: id,
        kind: place === null ? 'registered' : 'installed',
        fact: { kind: 'registered', asset: sparingly(is) },
        at: momentOf(from, who, now),
        text,
      },
    ],
    { by: who.id, now },
  );
  told({ subject: 'asset', id, text });
  return { id };
}

type Lived = Asked<typeof contracts.recordLife>['body'];

export async function recordLife(tx: Tx, id: AssetId, body: Lived, { who, now, told }: Acting) {
  const row = await lockAsset(tx, id, body.version);
  const { act } = body;
  if (act.kind === 'scrapped' && !scraps(who.role))
    refuse('not-allowed', 'A technician takes a machine out of service; whoever keeps the register scraps it.');
  if (act.kind === 'installed' && act.locationId === null)
    refuse('missing', 'Choose the place it was installed at.', 'act.locationId');
  const lifeAct = act as LifeAct<LocationId, AssetId>;
  const change = accept(
    planLife<AssetId, LocationId, CustomerId>(livingOf(row), lifeAct, body.on, localDateAt(who.zone, now)),
  );
  const to = await mustBeTheirs(tx, row.customerId, change.locationId);
  await checkNewParent(tx, row.id, change.parentId);
  const [before] =
    row.locationId === null
      ? []
      : await tx.db.select({ name: location.fullName }).from(location).where(eq(location.id, row.locationId));
  const what =
    act.kind === 'moved'
      ? `moved from ${before?.name ?? 'no place'} to ${to ?? 'no place'}`
      : act.kind === 'installed'
        ? `installed at ${to}`
        : act.kind === 'removed'
          ? `removed from ${before?.name ?? 'no place'}, now in store`
          : act.kind;
  const text = body.text === '' ? what : `${what}: ${body.text}`;
  await recordFacts(
    tx,
    [{ assetId: id, kind: act.kind, fact: { ...lifeAct, on: body.on }, at: momentOf(body.on, who, now), text }],
    { by: who.id, now },
  );
  if (change.locationId !== row.locationId) await indexAssets(tx, [id]);
  told({ subject: 'asset', id, text });
  return { version: row.version + 1 };
}

/** Locked in one order, so that two swaps of the same pair cannot wait for each other. */
async function swapPair(tx: Tx, id: AssetId, newId: AssetId): Promise<[AssetRow, AssetRow]> {
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
}

type Swap = Asked<typeof contracts.swapAsset>['body'];

export async function swapAsset(tx: Tx, id: AssetId, body: Swap, { who, now, told }: Acting) {
  const [old, fresh] = await swapPair(tx, id, body.newAssetId);
  if (old.version !== body.version) stale(old);
  const plan = accept(planSwap(livingOf(old), livingOf(fresh), body.oldGoes, body.on, localDateAt(who.zone, now)));
  const { lines, schedules } = await goingOver(tx.db, old.id, body.on);
  const goes: OldGoes = body.oldGoes;
  const more = body.text === '' ? '' : `: ${body.text}`;
  const at = momentOf(body.on, who, now);
  const outText = `swapped out for ${fresh.tag}, ${goes}${more}`;
  const inText = `swapped in for ${old.tag}, with ${lines.length} coverage lines and ${schedules.length} schedules${more}`;
  const { customerId, locationId, parentId } = plan.in;
  const { on } = body;
  await recordFacts(
    tx,
    [
      {
        assetId: old.id,
        kind: 'swapped out',
        fact: { kind: 'swapped out', on, goes, for: fresh.id },
        at,
        text: outText,
      },
      {
        assetId: fresh.id,
        kind: 'swapped in',
        fact: { kind: 'swapped in', on, for: old.id, customerId, locationId, parentId },
        at,
        text: inText,
      },
    ],
    { by: who.id, now },
  );
  // Parts of the old machine stay its parts; cover and schedules that name it go over from the day on.
  await handOver(tx, { lines, schedules }, fresh.id, on);
  await indexAssets(tx, [old.id, fresh.id]);
  told({ subject: 'asset', id: old.id, text: outText });
  told({ subject: 'asset', id: fresh.id, text: inText });
  return { coverageLines: lines.length, schedules: schedules.length };
}
