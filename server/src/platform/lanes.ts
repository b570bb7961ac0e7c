// What the ribbon draws of assets besides their cover: a lane from each room that has something on the time line.
import type { Ribbon } from '#api/ribbon.ts';
import type { AssetId } from '#core/ids.ts';
import { addDays, type Instant, type LocalDate } from '#core/time/index.ts';
import type { Db } from './database.ts';

export type Stretch = {
  readonly from: LocalDate;
  readonly to: LocalDate;
  readonly today: LocalDate;
  readonly now: Instant;
};

/** Reads its marks of many assets in a fixed number of queries; assets without any may be left out. */
export type Lane = (
  db: Db,
  ids: readonly AssetId[],
  stretch: Stretch,
) => Promise<ReadonlyMap<AssetId, Partial<Ribbon>>>;

export async function drawLanes(
  lanes: readonly Lane[],
  db: Db,
  ids: readonly AssetId[],
  stretch: Stretch,
): Promise<Map<AssetId, Ribbon>> {
  const drawn = ids.length === 0 ? [] : await Promise.all(lanes.map((lane) => lane(db, ids, stretch)));
  return new Map(
    ids.map((id) => [id, Object.assign({ cover: [], care: [], trouble: [] }, ...drawn.map((lane) => lane.get(id)))]),
  );
}

export const threadStretch = (today: LocalDate, now: Instant): Stretch => ({
  from: addDays(today, -240),
  to: addDays(today, 120),
  today,
  now,
});
export const stripStretch = (today: LocalDate, now: Instant): Stretch => ({
  from: addDays(today, -540),
  to: addDays(today, 200),
  today,
  now,
});
