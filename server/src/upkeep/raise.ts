// Raising what a run owes and nobody holds, in batches, exactly once.
import { randomUUID } from 'node:crypto';
import { eq, inArray } from 'drizzle-orm';
import * as contracts from '#api/upkeep.ts';
import { sayVerdict } from '#core/entitlement/index.ts';
import { type Instant, type LocalDate, sayDate, type Zone } from '#core/time/index.ts';
import { checkRunDate } from '#core/upkeep/index.ts';
import { jobPlan } from '../catalogue/tables.ts';
import { visitVerdicts } from '../entitlement/index.ts';
import { raiseMany, type NewOrder } from '../orders/index.ts';
import { keepAudit } from '../platform/audit.ts';
import { bulkInsert, type Database, type Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { announce } from '../platform/live.ts';
import { accept, CutShort, Refused } from '../platform/refuse.ts';
import type { VisitKey } from './hold.ts';
import { computeRun, type Owed, visitKey } from './owed.ts';
import { VISIT_COLUMNS, visitValues } from './rows.ts';
import { visit } from './tables.ts';

export const BATCH = 1000;

/** Raises one batch: only visits whose unique key this transaction itself wrote get an order. */
async function raiseBatch(
  tx: Tx,
  batch: readonly Owed[],
  tasks: ReadonlyMap<number, { text: string; mandatory: boolean }[]>,
  who: Person,
  now: Instant,
  fallback: Zone,
): Promise<{ raised: number; firstOrderId: number | null }> {
  const { connection } = tx;
  const claim = randomUUID();
  // One order for everybody: two runs at once then wait for each other instead of blocking crosswise.
  const sorted = [...batch].sort(
    (x, y) => x.row.schedule.id - y.row.schedule.id || (x.visit.nominal < y.visit.nominal ? -1 : 1),
  );
  await bulkInsert(
    connection,
    'visit',
    VISIT_COLUMNS,
    sorted.map((o) => visitValues(o, 'raised', claim)),
    'ON DUPLICATE KEY UPDATE id = id',
  );
  const claimed = await tx.db
    .select({ id: visit.id, scheduleId: visit.scheduleId, nominal: visit.nominal })
    .from(visit)
    .where(eq(visit.claim, claim))
    .orderBy(visit.id);
  if (claimed.length === 0) return { raised: 0, firstOrderId: null };
  const byKey = new Map(batch.map((o) => [visitKey(o.row.schedule.id, o.visit.nominal), o]));
  const raised = claimed.map((c) => ({ visitId: c.id, owed: byKey.get(visitKey(c.scheduleId, c.nominal)) as Owed }));
  const decided = await visitVerdicts(
    tx.db,
    raised.map(({ owed }) => ({ assetId: owed.row.schedule.assetId, due: owed.visit.due })),
  );
  const orderIds = await raiseMany(
    tx,
    raised.map(({ visitId, owed: { row, place, visit: v } }, i): NewOrder => {
      const { verdict } = decided[i] as (typeof decided)[number];
      return {
        kind: 'preventive',
        title: row.jobPlan,
        priority: 4,
        customerId: row.customerId,
        agreementId: row.agreement.id,
        visitId,
        zone: place.zone ?? fallback,
        startedAt: now,
        minutes: row.minutes,
        assetId: row.schedule.assetId,
        verdict: { verdict, sentence: sayVerdict(verdict), promise: '' },
        promises: {},
        draws: { on: v.due, draws: verdict.draws },
        tasks: tasks.get(row.schedule.jobPlanId) ?? [],
        withForms: true,
        events: () => [
          { at: now, recordedAt: now, by: who.id, act: { kind: 'raised', text: `upkeep due ${sayDate(v.due)}` } },
        ],
      };
    }),
    null,
    now,
  );
  return { raised: raised.length, firstOrderId: orderIds[0] ?? null };
}

export type Commit = { raised: number; alreadyRaised: number; held: number; firstOrderId: number | null };

/**
 * Raises the visits of a run that are not held, in batches of one transaction each. Whatever crashes or runs at the same
 * time, no visit gets a second order: the unique key (schedule, nominal date, part) decides.
 */
export async function commitRun(
  database: Database,
  to: LocalDate,
  only: readonly VisitKey[] | null,
  who: Person,
  now: Instant,
  today: LocalDate,
): Promise<Commit> {
  accept(checkRunDate(to, today));
  const { owed, held } = await computeRun(database.db, to);
  const chosen = only && new Set(only.map((k) => visitKey(k.scheduleId, k.nominal)));
  const keyOf = (o: Owed): string => visitKey(o.row.schedule.id, o.visit.nominal);
  const wanted = owed.filter((o) => !held.has(keyOf(o)) && (!chosen || chosen.has(keyOf(o))));
  const plans = [...new Set(wanted.map((o) => o.row.schedule.jobPlanId))];
  const tasks = new Map(
    (plans.length === 0
      ? []
      : await database.db
          .select({ id: jobPlan.id, tasks: jobPlan.tasks })
          .from(jobPlan)
          .where(inArray(jobPlan.id, plans))
    ).map((p) => [p.id as number, p.tasks as { text: string; mandatory: boolean }[]]),
  );
  let raised = 0;
  let firstOrderId: number | null = null;
  for (let i = 0; i < wanted.length; i += BATCH) {
    try {
      const result = await database.transact(async (tx) => {
        const done = await raiseBatch(tx, wanted.slice(i, i + BATCH), tasks, who, now, who.zone);
        // In the batch's own transaction: a run that is cut has left its note of how far it came.
        const far = `${raised + done.raised} of ${wanted.length}`;
        await keepAudit(tx, who, 'upkeep', 0, `run to ${sayDate(to)}: ${far} visits raised`);
        await announce(tx, contracts.commitRun);
        return done;
      });
      raised += result.raised;
      firstOrderId ??= result.firstOrderId;
    } catch (error) {
      if (raised === 0 || error instanceof Refused) throw error;
      throw new CutShort(
        `The run was cut short: ${raised} of ${wanted.length} visits are raised, and stand. Start it again; it goes on with the rest.`,
        error,
      );
    }
  }
  return {
    raised,
    alreadyRaised: (chosen ? chosen.size : wanted.length) - raised,
    held: owed.filter((o) => held.has(keyOf(o))).length,
    firstOrderId,
  };
}
