// Rules made of others: what they read is when alerts of their parts were active at the machine.
import { and, eq, gt, inArray, isNull, or } from 'drizzle-orm';
import type { AssetId } from '#core/ids.ts';
import { activeParts, isPartOf, type Sample } from '#core/signals/index.ts';
import { instant, type Instant } from '#core/time/index.ts';
import { alert } from './tables.ts';
import type { Turn } from './watch.ts';
import type { Rule } from './watched.ts';

/** How many parts of a rule are active at a machine, after an instant: at the first moment after it, and whenever that changes. */
export async function samplesOfParts(turn: Turn, rule: Rule, assetId: AssetId, after: Instant): Promise<Sample[]> {
  const parts = turn.watchedBy(assetId).filter((r) => isPartOf(r.name, rule));
  const rows = await turn.tx.db
    .select({ ruleId: alert.ruleId, from: alert.startedAt, to: alert.endedAt })
    .from(alert)
    .where(
      and(
        eq(alert.assetId, assetId),
        inArray(alert.ruleId, [0 as Rule['id'], ...parts.map((p) => p.id)]),
        isNull(alert.withdrawnAt),
        or(isNull(alert.endedAt), gt(alert.endedAt, after)),
      ),
    );
  const begin = instant(after + 1);
  const read = activeParts(
    parts.map((p) =>
      rows.filter((r) => r.ruleId === p.id).map(({ from, to }) => ({ from: from > begin ? from : begin, to })),
    ),
  );
  return read[0]?.at === begin ? read : [{ at: begin, value: 0 }, ...read];
}
