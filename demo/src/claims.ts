// What makers gave back so far for work under their warranties: old claims are closed, some in part, newer ones wait.
import { asc } from 'drizzle-orm';
import type { ClaimPage } from '#api/claims.ts';
import {
  addDays,
  daysBetween,
  instant,
  startOfDay,
  type Instant,
  type LocalDate,
  type Zone,
} from '#core/time/index.ts';
import type { Database } from '#server/platform/database.ts';
import type { Write } from '#server/platform/writing.ts';
import {
  answerClaimIn,
  changeMakerIn,
  closeClaimIn,
  drawClaimPaper,
  claimPaperOf,
  readClaimOf,
  sendClaimIn,
} from '#server/settle/index.ts';
import { claim, type person } from '#server/tables.ts';
import { LISBON } from './scenario.ts';

const TERMS = [
  { name: 'Halvane', mail: 'warranty@halvane.example', days: 60 },
  { name: 'Tindrel', mail: 'claims@tindrel.example', days: 30 },
  { name: 'Vessmark', mail: '', days: 45 },
] as const;
/** Days after the work from which a claim was sent, answered, and closed. */
const [SENT, ANSWERED, CLOSED] = [36, 60, 95];
/** What they take of each line, in percent, by the claim’s number, with why it is less. */
const TAKEN = [
  [100, ''],
  [100, ''],
  [60, 'labour at their own rate'],
  [100, ''],
  [0, 'a wear part'],
] as const;

/** In the middle of a morning. */
const OFFICE_MS = 10 * 3_600_000;

const linesOf = ({ id, lines }: ClaimPage) => {
  const [percent, why] = TAKEN[id % TAKEN.length] as (typeof TAKEN)[number];
  return lines.map((l) => ({ chargeId: l.chargeId as never, minor: Math.round((l.asked * percent) / 100), why }));
};

export async function writeClaims(database: Database, by: typeof person.$inferSelect, today: LocalDate): Promise<void> {
  const { db } = database;
  const write: Write = (work) => database.transact((tx) => work(tx, () => undefined));
  for (const terms of TERMS) await changeMakerIn(write, { ...terms, version: null });
  const rows = await db.select().from(claim).orderBy(asc(claim.id));
  for (const { id, doneOn } of rows) {
    const age = daysBetween(doneOn, today);
    const on = (days: number): { who: typeof by; now: Instant } => ({
      who: by,
      now: instant(startOfDay(LISBON as Zone, addDays(doneOn, days)) + OFFICE_MS),
    });
    if (age < SENT) continue;
    const page = await readClaimOf(db, id, today);
    const text = `their page, ${page.maker.slice(0, 2).toUpperCase()}-${40_000 + id}`;
    const paper = await drawClaimPaper(await claimPaperOf(db, id, on(SENT).now, today));
    await sendClaimIn(write, id, { version: page.version, way: 'otherwise', text }, paper, on(SENT));
    if (age < ANSWERED) continue;
    const lines = linesOf(page);
    await answerClaimIn(write, id, { version: page.version + 1, theirNumber: '', lines }, on(ANSWERED));
    if (age < CLOSED) continue;
    const minor = lines.reduce((sum, l) => sum + l.minor, 0);
    const theirNumber = minor === 0 ? '' : `CN-${7_000 + id}`;
    const closing = { way: 'credit note' as const, minor, because: '', theirNumber, incomingId: null };
    await closeClaimIn(write, id, { version: page.version + 2, ...closing }, on(CLOSED));
  }
}
