// Wrong passwords slow down their own account from their own address, and nobody else. Good sign-ins are not counted.
import { createHash } from 'node:crypto';
import { eq, lt, sql } from 'drizzle-orm';
import { instant } from '#core/time/index.ts';
import type { Database } from '../platform/database.ts';
import { signInTry } from '../platform/tables.ts';
import { instantText } from '../platform/columns.ts';

/** So many tries are free; after them the wait doubles from one second up to a quarter of an hour. */
const FREE = 5;
const LONGEST_MS = 15 * 60_000;
/** After this long without a try everything is forgotten. */
const FORGOTTEN_MS = 3_600_000;

const keyOf = (email: string, address: string): string =>
  createHash('sha256').update(`${email.trim().toLowerCase()}\n${address}`).digest('hex');

const waitAfter = (tries: number): number =>
  tries < FREE ? 0 : Math.min(LONGEST_MS, 1000 * 2 ** Math.min(20, tries - FREE));

/** Tries for one account from one address are taken one after the other: many wrong ones at once are counted one by one. */
const waiting = new Map<string, Promise<unknown>>();

async function inTurn<T>(key: string, work: () => Promise<T>): Promise<T> {
  const before = waiting.get(key) ?? Promise.resolve();
  const own = before.then(work, work);
  waiting.set(key, own);
  try {
    return await own;
  } finally {
    if (waiting.get(key) === own) waiting.delete(key);
  }
}

const sayWait = (ms: number): string => {
  const seconds = Math.ceil(ms / 1000);
  return seconds < 120 ? `${seconds} ${seconds === 1 ? 'second' : 'seconds'}` : `${Math.ceil(seconds / 60)} minutes`;
};

/** Lets `fits` look at the password unless a wait runs (429). A wrong one is counted, a good one forgets what was wrong before. */
export function throttled(
  database: Database,
  email: string,
  address: string,
  fits: () => Promise<boolean>,
): Promise<boolean> {
  const key = keyOf(email, address);
  return inTurn(key, async () => {
    const [row] = await database.db.select().from(signInTry).where(eq(signInTry.id, key));
    const known = row && Date.now() - row.lastAt < FORGOTTEN_MS ? row : null;
    const wait = known ? known.lastAt + waitAfter(known.tries) - Date.now() : 0;
    if (wait > 0)
      throw Object.assign(
        new Error(`Too many wrong passwords for this account from here; try again in ${sayWait(wait)}.`),
        { statusCode: 429 },
      );
    if (await fits()) {
      if (row) await database.db.delete(signInTry).where(eq(signInTry.id, key));
      return true;
    }
    const lastAt = instant(Date.now());
    await database.db
      .insert(signInTry)
      .values({ id: key, tries: 1, lastAt })
      .onDuplicateKeyUpdate({ set: { tries: known ? sql`tries + 1` : 1, lastAt } });
    return false;
  });
}

export async function sweepTries(database: Database): Promise<void> {
  await database.db
    .delete(signInTry)
    .where(lt(signInTry.lastAt, sql`${instantText(instant(Date.now() - FORGOTTEN_MS))}`));
}
