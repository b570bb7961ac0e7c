// What the finder knows parts by: their numbers and names as they are now, looked up in the list itself.
import { and, asc, eq, inArray, like, or } from 'drizzle-orm';
import type { PartId } from '#core/ids.ts';
import { sayAmount } from '#core/stores/index.ts';
import { escapeLike } from '../platform/database.ts';
import type { FinderSource } from '../platform/finder-source.ts';
import { freeOfParts } from './part-use.ts';
import { isCalled } from './parts.ts';
import { part } from './tables.ts';

const FOUND = 6;
/** Shorter, nearly every part answers. */
const SHORTEST = 3;

export const partsFoundBy: FinderSource = {
  kind: 'part',
  knownOf: async (_, ids) => ids.map((id) => ({ id, by: [] })),
  page: async () => [],
  async called(db, asked) {
    if (asked.trim().length < SHORTEST) return [];
    const rows = await db
      .select({ id: part.id })
      .from(part)
      .where(and(eq(part.retired, false), or(like(part.number, `${escapeLike(asked)}%`), isCalled(asked))))
      .orderBy(asc(part.number))
      .limit(FOUND);
    return rows.map((r) => r.id);
  },
  async show(db, ids) {
    const rows = await db
      .select({ id: part.id, number: part.number, name: part.name, unit: part.unit })
      .from(part)
      .where(inArray(part.id, ids as PartId[]));
    const freeOf = await freeOfParts(
      db,
      rows.map((r) => r.id),
    );
    return rows.map((r) => ({
      ...{ id: r.id, mark: r.number, title: r.name, beside: `${sayAmount(freeOf(r.id), r.unit)} free` },
      ...{ state: null, under: null, ribbon: null },
    }));
  },
};
