// Making schedules for machines of an agreement.
import type { AssetId, ScheduleId } from '#core/ids.ts';
import type { LocalDate } from '#core/time/index.ts';
import type { agreement } from '../agreements/tables.ts';
import { reachOf } from '../entitlement/index.ts';
import type { Db, Tx } from '../platform/database.ts';
import { refuse } from '../platform/refuse.ts';
import { schedule, type TermColumns } from './tables.ts';

type Row = typeof agreement.$inferSelect;

/** Every machine that a line of the agreement reaches now. */
export const coveredBy = async (db: Db, { id, customerId }: Pick<Row, 'id' | 'customerId'>): Promise<Set<AssetId>> =>
  new Set((await reachOf(db, id, customerId)).flatMap((r) => r.assetIds));

export function mustNotHaveEnded({ stage, number }: Row): void {
  if (stage === 'ended') refuse('wrong-stage', `${number} has ended; no visits can be added to it.`, 'agreementId');
}

/** Writes a schedule for each machine, and gives their ids. Refused: machines the agreement does not cover. */
export async function addFor(
  tx: Tx,
  row: Row,
  assetIds: readonly AssetId[],
  covered: ReadonlySet<AssetId>,
  terms: TermColumns,
  today: LocalDate,
): Promise<ScheduleId[]> {
  if (assetIds.length === 0) refuse('missing', 'The agreement covers no asset yet; add coverage first.', 'assetIds');
  const outside = assetIds.filter((a) => !covered.has(a));
  if (outside.length > 0)
    refuse(
      'invalid',
      `${outside.length} of these assets are not covered by the agreement; add coverage first.`,
      'assetIds',
    );
  const made = await tx.db
    .insert(schedule)
    .values(
      assetIds.map((assetId) => ({
        ...terms,
        agreementId: row.id,
        assetId,
        turns: [],
        // Nothing that lay before it was promised is owed.
        holdsFrom: row.stage === 'draft' ? null : today,
      })),
    )
    .$returningId();
  return made.map((m) => m.id);
}
