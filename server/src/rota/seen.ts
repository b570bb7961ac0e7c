// Where somebody is, as far as they allow it: said by their phone with what they do, never asked for beside it.
import { and, desc, eq, gte, inArray, lt, max } from 'drizzle-orm';
import type { OrderId, PersonId } from '#core/ids.ts';
import { DAY, instant, type Instant } from '#core/time/index.ts';
import type { Database, Db, Tx } from '../platform/database.ts';
import { refuse } from '../platform/refuse.ts';
import type { Told } from '../platform/writing.ts';
import { positionConsent, saidPosition } from './tables.ts';

type Who = { readonly id: PersonId };

/** What they said last; nobody who never said so is shown anywhere. */
export async function allowsPosition(db: Db, { id }: Who): Promise<boolean> {
  const [last] = await db
    .select({ allowed: positionConsent.allowed })
    .from(positionConsent)
    .where(eq(positionConsent.personId, id))
    .orderBy(desc(positionConsent.id))
    .limit(1);
  return last?.allowed ?? false;
}

/** Keeps what they allow; taken back, what was said before is kept no more. */
export async function allowPosition(
  tx: Tx,
  told: Told,
  who: Who,
  allowed: boolean,
  { at, now }: { readonly at: Instant; readonly now: Instant },
): Promise<void> {
  await tx.db.insert(positionConsent).values({ personId: who.id, allowed, at, recordedAt: now });
  if (!allowed) await tx.db.delete(saidPosition).where(eq(saidPosition.personId, who.id));
  told({
    subject: 'person',
    id: who.id,
    text: allowed ? 'lets what they do say where they are' : 'says no more where they are',
  });
}

type Said = {
  readonly deed: string;
  readonly orderId: OrderId | null;
  readonly latitude: number;
  readonly longitude: number;
  readonly accuracy: number;
};

/** Keeps where they were; of the same deed once. Refused: they did not allow it. */
export async function keepPosition(tx: Tx, who: Who, said: Said, at: Instant): Promise<void> {
  if (!(await allowsPosition(tx.db, who)))
    refuse('not-allowed', 'You did not allow this phone to say where you are; allow it under your name.');
  const { deed, orderId, latitude, longitude, accuracy: accuracyM } = said;
  await tx.db
    .insert(saidPosition)
    .values({ deed, personId: who.id, orderId, at, latitude, longitude, accuracyM })
    .onDuplicateKeyUpdate({ set: { deed } });
}

/** Where somebody was says nothing of today after so long, and is kept no longer. */
const KEPT: number = 7 * DAY;
export async function forgetPositions({ db }: Pick<Database, 'db'>, now: Instant): Promise<number> {
  const [gone] = await db.delete(saidPosition).where(lt(saidPosition.at, instant(now - KEPT)));
  return gone.affectedRows;
}

export type LastSeen = {
  readonly at: Instant;
  readonly orderId: OrderId | null;
  readonly latitude: number;
  readonly longitude: number;
  readonly accuracy: number;
};

/** Where each said last that they are, since an instant. */
export async function lastSeen(db: Db, ids: readonly PersonId[], since: Instant): Promise<Map<PersonId, LastSeen>> {
  if (ids.length === 0) return new Map();
  const last = db
    .select({ personId: saidPosition.personId, at: max(saidPosition.at).as('last_at') })
    .from(saidPosition)
    .where(and(inArray(saidPosition.personId, [...ids]), gte(saidPosition.at, since)))
    .groupBy(saidPosition.personId)
    .as('last');
  const rows = await db
    .select({ said: saidPosition })
    .from(last)
    .innerJoin(saidPosition, and(eq(saidPosition.personId, last.personId), eq(saidPosition.at, last.at)));
  return new Map(
    rows.map(({ said: { personId, at, orderId, latitude, longitude, accuracyM } }) => [
      personId,
      { at, orderId, latitude, longitude, accuracy: accuracyM },
    ]),
  );
}
