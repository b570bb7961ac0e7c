// Asset rows and past stays, as their facts say them.
import { asc, gt, inArray } from 'drizzle-orm';
import { afterFact } from '#core/assets/index.ts';
import type { AssetId } from '#core/ids.ts';
import { differences, type DerivedRows } from '../platform/derived.ts';
import { differing, factsOf, recordOf, sameStays, staysOf, writeStays, type Known } from './facts.ts';
import { asset } from './tables.ts';

const AT_ONCE = 1000;

export const assetsDerived: DerivedRows = {
  what: 'assets',
  async look(tx, after, _now, mend) {
    const query = tx.db
      .select()
      .from(asset)
      .where(gt(asset.id, after as AssetId))
      .orderBy(asc(asset.id))
      .limit(AT_ONCE);
    const rows = mend ? await query.for('update') : await query;
    if (rows.length === 0) return { last: null, seen: 0, differing: [] };
    const ids = rows.map((r) => r.id);
    const [facts, stays] = await Promise.all([factsOf(tx.db, ids), staysOf(tx.db, ids)]);
    const wrong: string[] = [];
    for (const row of rows) {
      const own = facts.get(row.id) ?? [];
      if (own[0]?.kind !== 'registered' && own[0]?.kind !== 'taken over') {
        wrong.push(`${row.tag}: its facts do not begin with its registration`);
        continue;
      }
      const said = own.reduce<Known | null>(afterFact, null) as Known;
      const set = differing(row, said.asset);
      const held = stays.get(row.id) ?? [];
      if (Object.keys(set).length > 0) {
        wrong.push(`${row.tag}: ${differences(recordOf(row), said.asset).join('; ') || 'its plain serial'}`);
        if (mend)
          await tx.db
            .update(asset)
            .set({ ...set, version: row.version + 1 })
            .where(inArray(asset.id, [row.id]));
      }
      if (!sameStays(held, said.stays)) {
        wrong.push(`${row.tag}: stood at ${JSON.stringify(held)}, its facts say ${JSON.stringify(said.stays)}`);
        if (mend) await writeStays(tx, new Map([[row.id, said.stays]]));
      }
    }
    return { last: rows.length < AT_ONCE ? null : (ids.at(-1) as number), seen: rows.length, differing: wrong };
  },
};
