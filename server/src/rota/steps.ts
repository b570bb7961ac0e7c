// The steps of five minutes that people are taken for: their key is what keeps two dispatchers from booking one person twice.
import { and, asc, eq, inArray, ne } from 'drizzle-orm';
import type { AppointmentId, PersonId } from '#core/ids.ts';
import { STEP_MINUTES } from '#core/rota/index.ts';
import { MINUTE, type InstantSpan } from '#core/time/index.ts';
import { bulkInsert, isTaken, type Tx } from '../platform/database.ts';
import { refuse } from '../platform/refuse.ts';
import { rotaStep } from './tables.ts';

const STEP = STEP_MINUTES * MINUTE;

/** All steps that a span touches. */
function stepsOf({ from, to }: InstantSpan): number[] {
  const first = Math.floor(from / STEP);
  return Array.from({ length: Math.ceil(to / STEP) - first }, (_, i) => first + i);
}

export type Taking = {
  readonly id: AppointmentId;
  readonly people: readonly PersonId[];
  readonly span: InstantSpan;
  /** Two appointments at once are meant. */
  readonly overlaps: boolean;
};

/** Takes people for the steps of appointments. Refused: a step that is taken, unless it is meant. */
export async function takeSteps(tx: Tx, all: readonly Taking[]): Promise<void> {
  const rows: [number, number, number, number][] = [];
  for (const { id, people, span, overlaps } of all) {
    const steps = stepsOf(span);
    for (const personId of people) {
      const taken = overlaps ? await takenOf(tx, personId, steps) : new Set<number>();
      for (const step of steps) rows.push([personId, step, taken.has(step) ? id : 0, id]);
    }
  }
  try {
    await bulkInsert(tx.connection, 'rota_step', ['person_id', 'step', 'lap', 'appointment_id'], rows);
  } catch (error) {
    if (isTaken(error))
      refuse('conflict', 'Somebody else has just planned this person for that time; look again.', 'people');
    throw error;
  }
}

async function takenOf(tx: Tx, personId: PersonId, steps: readonly number[]): Promise<Set<number>> {
  const rows = await tx.db
    .select({ step: rotaStep.step })
    .from(rotaStep)
    .where(and(eq(rotaStep.personId, personId), inArray(rotaStep.step, [...steps]), eq(rotaStep.lap, 0)))
    .for('update');
  return new Set(rows.map((r) => r.step));
}

/** Gives back what appointments held; where another was there by intent, it moves up, so that the step stays taken. */
export async function giveBackSteps(tx: Tx, ids: readonly AppointmentId[]): Promise<void> {
  if (ids.length === 0) return;
  const held = await tx.db
    .select()
    .from(rotaStep)
    .where(inArray(rotaStep.appointmentId, [...ids]))
    .for('update');
  if (held.length === 0) return;
  await tx.db.delete(rotaStep).where(inArray(rotaStep.appointmentId, [...ids]));
  const freed = new Set(held.flatMap((r) => (r.lap === 0 ? [`${r.personId} ${r.step}`] : [])));
  const behind = await tx.db
    .select()
    .from(rotaStep)
    .where(
      and(
        inArray(rotaStep.personId, [...new Set(held.map((r) => r.personId))]),
        inArray(rotaStep.step, [...new Set(held.map((r) => r.step))]),
        ne(rotaStep.lap, 0),
      ),
    )
    .orderBy(asc(rotaStep.lap))
    .for('update');
  for (const row of behind) {
    // The first that waits there moves up, once.
    if (!freed.delete(`${row.personId} ${row.step}`)) continue;
    await tx.db
      .update(rotaStep)
      .set({ lap: 0 })
      .where(and(eq(rotaStep.personId, row.personId), eq(rotaStep.step, row.step), eq(rotaStep.lap, row.lap)));
  }
}
