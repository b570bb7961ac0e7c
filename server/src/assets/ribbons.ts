// Ribbons of assets: their cover, and the lanes of the rooms that have something on their time line.
import type { Ribbon } from '#api/ribbon.ts';
import type { AssetId } from '#core/ids.ts';
import { coverBands, type CoverSubject } from '../entitlement/index.ts';
import type { Db } from '../platform/database.ts';
import { drawLanes, type Lane, type Stretch } from '../platform/lanes.ts';

export async function ribbonsOf(
  db: Db,
  lanes: readonly Lane[],
  subjects: ReadonlyMap<AssetId, CoverSubject>,
  stretch: Stretch,
): Promise<Map<AssetId, Ribbon>> {
  const ids = [...subjects.keys()];
  const [cover, drawn] = await Promise.all([coverBands(db, subjects), drawLanes(lanes, db, ids, stretch)]);
  return new Map([...drawn].map(([id, ribbon]) => [id, { ...ribbon, cover: cover.get(id) ?? [] }]));
}
