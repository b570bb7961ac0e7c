// Numbers of agreements: the next one by the provider’s scheme, or one given by hand that nobody else has.
import { and, eq, ne } from 'drizzle-orm';
import { checkNumber, checkPattern, numberBy } from '#core/agreements/index.ts';
import type { AgreementId } from '#core/ids.ts';
import type { LocalDate } from '#core/time/index.ts';
import type { Db, Tx } from '../platform/database.ts';
import { accept, refuse, stale } from '../platform/refuse.ts';
import { agreement, agreementNumbering } from './tables.ts';

const ONLY_ROW = eq(agreementNumbering.id, 1);

export async function readNumbering(db: Db) {
  const [row] = await db.select().from(agreementNumbering).where(ONLY_ROW);
  return row ?? refuse('not-found', 'No scheme of numbers is set up.');
}

/** The scheme’s row under lock: whoever comes second waits for the first one’s number. */
async function lockNumbering(tx: Tx) {
  const [row] = await tx.db.select().from(agreementNumbering).where(ONLY_ROW).for('update');
  return row ?? refuse('not-found', 'No scheme of numbers is set up.');
}

const holderOf = async (db: Db, number: string) =>
  (await db.select({ id: agreement.id }).from(agreement).where(eq(agreement.number, number)).limit(1))[0];

/** The next number that nobody has yet; numbers given by hand are stepped over. */
export async function nextNumber(tx: Tx, today: LocalDate): Promise<string> {
  const { pattern, next } = await lockNumbering(tx);
  let at = next;
  while (await holderOf(tx.db, numberBy(pattern, at, today))) at += 1;
  await tx.db
    .update(agreementNumbering)
    .set({ next: at + 1 })
    .where(ONLY_ROW);
  return numberBy(pattern, at, today);
}

/** A number given by hand; refused when another agreement has it. */
export async function takeNumber(tx: Tx, given: string, own: AgreementId | null): Promise<string> {
  const number = accept(checkNumber(given));
  const [taken] = await tx.db
    .select({ name: agreement.name })
    .from(agreement)
    .where(and(eq(agreement.number, number), own === null ? undefined : ne(agreement.id, own)))
    .limit(1);
  if (taken) refuse('taken', `${number} is the number of “${taken.name}” already; give another.`, 'number');
  return number;
}

export async function changeNumbering(tx: Tx, ask: { pattern: string; next: number; version: number }): Promise<void> {
  const pattern = accept(checkPattern(ask.pattern));
  const row = await lockNumbering(tx);
  if (row.version !== ask.version) stale(row);
  await tx.db
    .update(agreementNumbering)
    .set({ pattern, next: ask.next, version: row.version + 1 })
    .where(ONLY_ROW);
}
