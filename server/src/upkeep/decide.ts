// What a person decides on proposals: held back, declined, accepted in spite of what speaks against them, or let go on again.
import { and, eq, inArray, or } from 'drizzle-orm';
import * as contracts from '#api/upkeep.ts';
import type { LocalDate } from '#core/time/index.ts';
import { checkDecision, type Decision, type RunScope, type VisitKey } from '#core/upkeep/index.ts';
import { keepAudit } from '../platform/audit.ts';
import { countsChanged } from '../platform/counts-changed.ts';
import { bulkInsert, type Database, type Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { announce } from '../platform/live.ts';
import { accept, refuse } from '../platform/refuse.ts';
import { keepPlanned } from './planning.ts';
import { proposalsNamed, runAsk, type Proposed } from './proposals.ts';
import { schedulesOf, VISIT_COLUMNS, whileToCome } from './rows.ts';
import { visit } from './tables.ts';

const EVERYTHING: RunScope = {};

export type Acting = { readonly who: Person; readonly today: LocalDate; readonly to: LocalDate };

/** The proposals meant, as they stand now; refused when none of them is proposed any more. */
async function meant(database: Database, keys: readonly VisitKey[], { today, to }: Acting): Promise<Proposed[]> {
  const { db } = database;
  await keepPlanned(database, { today, to });
  const rows = await proposalsNamed(db, await runAsk(db, { to, today, scope: EVERYTHING }), keys);
  if (rows.length === 0) refuse('conflict', 'None of these visits is proposed any more; look at the run again.');
  return rows;
}

const DECIDED = ['hold_reason', 'hold_until', 'decided_by'] as const;

async function writeDecision(tx: Tx, rows: readonly Proposed[], decision: Decision, who: Person): Promise<void> {
  const until = decision.kind === 'held' ? decision.until : null;
  await bulkInsert(
    tx.connection,
    'visit',
    [...VISIT_COLUMNS, ...DECIDED],
    rows.map((r) => [
      r.scheduleId,
      r.nominal,
      r.part,
      r.assetId,
      r.agreementId,
      r.jobPlanId,
      r.due,
      r.planned,
      r.windowFrom,
      r.windowTo,
      decision.kind,
      decision.reason,
      until,
      who.id,
    ]),
    whileToCome(DECIDED),
  );
}

const SAID: Readonly<Record<Decision['kind'], string>> = { held: 'held', declined: 'declined', accepted: 'let go on' };

/** Decides on proposals, and gives how many. Refused as a whole: what `checkDecision` refuses of any of them. */
export async function decideVisits(
  database: Database,
  keys: readonly VisitKey[],
  decision: Decision,
  acting: Acting,
): Promise<number> {
  const rows = await meant(database, keys, acting);
  for (const row of rows) accept(checkDecision(decision, row.exceptions, acting.who, acting.today));
  const isSo = (r: Proposed): boolean =>
    r.state === decision.kind && r.reason === decision.reason && decision.kind === 'held' && r.until === decision.until;
  const anew = rows.filter((r) => !isSo(r));
  if (anew.length === 0) return rows.length;
  return database.transact(async (tx) => {
    await writeDecision(tx, anew, decision, acting.who);
    await countsChanged(
      tx,
      anew.map((r) => r.windowTo),
      acting.today,
    );
    const text = `${SAID[decision.kind]} ${anew.length} visits: ${decision.reason}`;
    await keepAudit(tx, acting.who, 'upkeep', 0, text);
    await announce(tx, contracts.decideVisits, schedulesOf(anew));
    return rows.length;
  });
}

/** Takes back that visits are held or accepted: they are proposed as before. */
export async function releaseVisits(database: Database, keys: readonly VisitKey[], who: Person): Promise<void> {
  await database.transact(async (tx) => {
    const named = or(
      ...keys.map((k) => and(eq(visit.scheduleId, k.scheduleId), eq(visit.nominal, k.nominal), eq(visit.part, k.part))),
    );
    const [{ affectedRows }] = await tx.db.delete(visit).where(and(inArray(visit.state, ['held', 'accepted']), named));
    if (affectedRows === 0) return;
    await keepAudit(tx, who, 'upkeep', 0, `released ${affectedRows} visits`);
    await announce(tx, contracts.releaseVisits, schedulesOf(keys));
  });
}
