// Many assets changed at once. Preview and action stand on the same plan.
import { and, count, eq, inArray, sql } from 'drizzle-orm';
import type * as contracts from '#api/assets.ts';
import type { BulkEffect } from '#api/assets.ts';
import type { Asked } from '#api/contract.ts';
import { sortBulk, type BulkPlace } from '#core/assets/index.ts';
import type { AssetId, CustomerId, LocationId } from '#core/ids.ts';
import { localDateAt, type LocalDate } from '#core/time/index.ts';
import { calendar } from '../calendars/tables.ts';
import { assetClass } from '../catalogue/tables.ts';
import { location } from '../places/tables.ts';
import type { Tx } from '../platform/database.ts';
import { refuse } from '../platform/refuse.ts';
import { schedule } from '../upkeep/tables.ts';
import { mustBeTheirs, type Acting } from './commands.ts';
import { recordFacts, type AssetRow, type Fact } from './facts.ts';
import { indexAssets } from './finder.ts';
import { asset } from './tables.ts';

type Change = Asked<typeof contracts.changeMany>['body']['change'];
type OfPlaces = Extract<Change, { kind: 'calendar of their places' }>;
type OfAssets = Exclude<Change, OfPlaces>;

type Plan = {
  readonly taken: readonly { readonly row: AssetRow; readonly fact: Fact | null }[];
  readonly effect: BulkEffect;
  readonly text: string;
};

const REFUSED_SHOWN = 200;

const lockAll = (tx: Tx, ids: readonly AssetId[]): Promise<AssetRow[]> =>
  tx.db
    .select()
    .from(asset)
    .where(inArray(asset.id, [...ids]))
    .orderBy(asset.id)
    .for('update');

async function placeFor(
  tx: Tx,
  rows: readonly AssetRow[],
  id: LocationId,
): Promise<BulkPlace<CustomerId> & { fullName: string }> {
  const [node] = await tx.db.select().from(location).where(eq(location.id, id));
  if (!node) refuse('not-found', 'That place does not exist; choose another.', 'change.locationId');
  const theirs = new Set<CustomerId>();
  for (const customer of new Set(rows.map((r) => r.customerId)))
    await mustBeTheirs(tx, customer, id).then(
      () => theirs.add(customer),
      () => undefined,
    );
  return { name: node.name, fullName: node.fullName, isTheirs: (customer) => theirs.has(customer) };
}

/** How the change is told, and what it means beyond the assets. */
async function sayChange(tx: Tx, ids: readonly AssetId[], change: OfAssets, place: { fullName: string } | null) {
  switch (change.kind) {
    case 'class': {
      const [found] = await tx.db.select().from(assetClass).where(eq(assetClass.id, change.classId));
      if (!found) refuse('not-found', 'That class does not exist; choose another.', 'change.classId');
      return { text: `class → ${found.name}`, remarks: [] };
    }
    case 'owner':
      return { text: `owner → ${change.owner}`, remarks: [] };
    case 'place':
      return { text: `moved to ${place?.fullName}`, remarks: [] };
    case 'retire': {
      const [schedules] = await tx.db
        .select({ n: count() })
        .from(schedule)
        .where(inArray(schedule.assetId, [...ids]));
      return {
        text: `retired: ${change.reason}`,
        remarks: schedules?.n
          ? [`${schedules.n} schedules stop; the next upkeep run names them with the reason “retired”.`]
          : [],
      };
    }
  }
}

async function planAssets(tx: Tx, rows: readonly AssetRow[], change: OfAssets, on: LocalDate): Promise<Plan> {
  const place = change.kind === 'place' ? await placeFor(tx, rows, change.locationId) : null;
  const { text, remarks } = await sayChange(
    tx,
    rows.map((r) => r.id),
    change,
    place,
  );
  const { taken, unchanged, refused } = sortBulk<AssetId, LocationId, CustomerId, AssetRow>(rows, change, place, on);
  return {
    taken,
    text,
    effect: { will: taken.length, unchanged, refused: refused.slice(0, REFUSED_SHOWN), remarks },
  };
}

async function planPlaces(tx: Tx, rows: readonly AssetRow[], change: OfPlaces): Promise<Plan> {
  const { db } = tx;
  const [found] =
    change.calendarId === null ? [] : await db.select().from(calendar).where(eq(calendar.id, change.calendarId));
  if (change.calendarId !== null && !found)
    refuse('not-found', 'That calendar does not exist; choose another.', 'change.calendarId');
  const places = [...new Set(rows.flatMap((r) => r.locationId ?? []))];
  const nodes = places.length === 0 ? [] : await db.select().from(location).where(inArray(location.id, places));
  const ids = rows.map((r) => r.id);
  const [others] =
    places.length === 0
      ? []
      : await db
          .select({ n: count() })
          .from(asset)
          .where(and(inArray(asset.locationId, places), sql`${asset.id} not in ${ids}`));
  const standing = rows.filter((r) => r.locationId !== null);
  const taken = standing.filter((r) => nodes.find((n) => n.id === r.locationId)?.calendarId !== change.calendarId);
  return {
    taken: taken.map((row) => ({ row, fact: null })),
    text: `calendar of the place → ${found?.name ?? 'from the place above'}`,
    effect: {
      will: taken.length,
      unchanged: standing.length - taken.length,
      refused: rows
        .filter((r) => r.locationId === null)
        .map((r) => ({ tag: r.tag, reason: 'It stands at no place.' }))
        .slice(0, REFUSED_SHOWN),
      remarks: [
        `${places.length} ${places.length === 1 ? 'place gets' : 'places get'} the calendar; ${others?.n ?? 0} other assets stand there too.`,
      ],
    },
  };
}

/** What a change does to each of the assets. */
export async function planMany(tx: Tx, ids: readonly AssetId[], change: Change, today: LocalDate): Promise<Plan> {
  const rows = await lockAll(tx, ids);
  return change.kind === 'calendar of their places'
    ? planPlaces(tx, rows, change)
    : planAssets(tx, rows, change, today);
}

export async function changeMany(tx: Tx, ids: readonly AssetId[], change: Change, { who, now, told }: Acting) {
  const { taken, text, effect } = await planMany(tx, ids, change, localDateAt(who.zone, now));
  if (taken.length > 0) {
    if (change.kind === 'calendar of their places')
      await tx.db
        .update(location)
        .set({ calendarId: change.calendarId, version: sql`${location.version} + 1` })
        .where(inArray(location.id, [...new Set(taken.flatMap(({ row }) => row.locationId ?? []))]));
    const kind = change.kind === 'retire' ? 'scrapped' : change.kind === 'place' ? 'moved' : 'changed';
    await recordFacts(
      tx,
      taken.map(({ row, fact }) => ({ assetId: row.id, kind, fact, at: now, text })),
      { by: who.id, now },
    );
    if (change.kind === 'class' || change.kind === 'place')
      await indexAssets(
        tx,
        taken.map(({ row }) => row.id),
      );
  }
  const tags = taken.map(({ row }) => row.tag);
  if (taken.length > 0)
    told({
      subject: 'asset',
      id: 0,
      text: `${taken.length} assets: ${text} (${tags.slice(0, 40).join(', ')}${tags.length > 40 ? ', …' : ''})`,
    });
  return effect;
}
