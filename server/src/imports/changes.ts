// Changes of an import to rows that were there before, kept with what they were, so that undoing puts it back.
import { eq } from 'drizzle-orm';
import type { PlannedChange } from '#core/imports/index.ts';
import { contact, customer } from '../customers/tables.ts';
import { location } from '../places/tables.ts';
import type { Tx } from '../platform/database.ts';
import { travelTime } from '../rota/tables.ts';
import type { Origin } from './assets.ts';
import { importBefore } from './tables.ts';

type Subject = 'customer' | 'contact' | 'location' | 'travel time';
const TABLES = { customer, contact, location, 'travel time': travelTime } as const;

/** Carries changes out and keeps what was before. A row changed since the dry run is left to whoever changed it. */
export async function change(
  tx: Tx,
  subject: Subject,
  changes: readonly PlannedChange<number>[],
  { importId }: Origin,
): Promise<void> {
  const table = TABLES[subject];
  for (const { id, changes: set } of changes) {
    const [row] = await tx.db
      .select()
      .from(table)
      .where(eq(table.id, id as never))
      .for('update');
    if (!row) continue;
    const held = row as unknown as Record<string, unknown> & { version: number };
    await tx.db
      .update(table)
      .set({ ...set, version: held.version + 1 })
      .where(eq(table.id, id as never));
    if (importId !== null)
      await tx.db.insert(importBefore).values({
        importId,
        subject,
        subjectId: id,
        version: held.version + 1,
        values: Object.fromEntries(Object.keys(set).map((key) => [key, held[key]])),
      });
  }
}
