// Agreement types: the provider's own kinds of agreement, and what a new one takes from a type or from another agreement.
import { and, asc, eq, isNull } from 'drizzle-orm';
import type { AgreementTypeOut } from '#api/agreements/index.ts';
import type { AgreementTypeTerms } from '#core/agreements/index.ts';
import type { AgreementId, AgreementTypeId } from '#core/ids.ts';
import type { Db, Tx } from '../platform/database.ts';
import { refuse, stale } from '../platform/refuse.ts';
import { agreement, agreementType, coverageLine } from './tables.ts';
import { allowance } from '../entitlement/tables.ts';
import { schedule } from '../upkeep/tables.ts';
import { type AgreementRow } from './lines.ts';
import { everHeld } from '../entitlement/index.ts';

export async function listTypes(db: Db): Promise<AgreementTypeOut[]> {
  const rows = await db.select().from(agreementType).orderBy(asc(agreementType.name)).limit(200);
  return rows.map(({ terms, ...row }) => ({
    ...row,
    terms: {
      ...terms,
      discounts: terms.discounts.map((d) => ({ ...d, kinds: [...d.kinds] })),
      kinds: [...terms.kinds],
      excludedCauses: [...terms.excludedCauses],
      excludedParts: [...terms.excludedParts],
      allowances: [...terms.allowances],
    },
  }));
}

export async function addType(tx: Tx, body: { name: string; terms: AgreementTypeTerms }): Promise<AgreementTypeId> {
  const [made] = await tx.db.insert(agreementType).values(body).$returningId();
  return made?.id as AgreementTypeId;
}

export async function changeType(
  tx: Tx,
  id: AgreementTypeId,
  body: { version: number; name: string; terms: AgreementTypeTerms },
): Promise<void> {
  const [row] = await tx.db.select().from(agreementType).where(eq(agreementType.id, id)).for('update');
  if (!row) refuse('not-found', 'That type does not exist.');
  if (row.version !== body.version) stale(row);
  await tx.db
    .update(agreementType)
    .set({ name: body.name, terms: body.terms, version: row.version + 1 })
    .where(eq(agreementType.id, id));
}

/** The counted rights of a type, for a draft that begins from it. */
export async function takeFromType(tx: Tx, id: AgreementId, typeId: AgreementTypeId): Promise<void> {
  const [type] = await tx.db.select().from(agreementType).where(eq(agreementType.id, typeId));
  if (!type) refuse('not-found', 'That type does not exist; choose another.', 'typeId');
  await tx.db.update(agreement).set({ typeId }).where(eq(agreement.id, id));
  if (type.terms.allowances.length > 0)
    await tx.db.insert(allowance).values(type.terms.allowances.map((a) => ({ ...a, agreementId: id })));
}

/** A copy holds from the start, and follows no line of the agreement it came from. */
const OF_ITS_OWN = { holdsFrom: null, lineScheduleId: null, joinedAt: null, leftAt: null, replacedById: null };

/** Coverage, counted rights and schedules of another agreement of the same customer; terms of lines run with the new one. Gives its number. */
export async function takeFromAgreement(tx: Tx, draft: AgreementRow, sourceId: AgreementId): Promise<string> {
  const [source] = await tx.db.select().from(agreement).where(eq(agreement.id, sourceId));
  if (!source) refuse('not-found', 'That agreement does not exist; choose another.', 'copyOf');
  const sameCustomer = source.customerId === draft.customerId;
  const lines = await tx.db.select().from(coverageLine).where(eq(coverageLine.agreementId, sourceId));
  const copied = lines
    .filter(
      (l) =>
        everHeld(l) &&
        l.endedById === null &&
        (l.termTo === null || source.termTo === null || l.termTo >= source.termTo),
    )
    // Another customer has other machines and places; what is said of a class or the fleet holds for any.
    .filter((l) => sameCustomer || (l.assetId === null && l.locationId === null));
  if (copied.length > 0)
    await tx.db.insert(coverageLine).values(
      copied.map(({ id: _, ...line }) => ({
        ...line,
        agreementId: draft.id,
        termFrom: draft.termFrom,
        termTo: null,
        rootId: null,
        amendmentId: null,
        endedById: null,
      })),
    );
  const rights = await tx.db.select().from(allowance).where(eq(allowance.agreementId, sourceId));
  if (rights.length > 0)
    await tx.db.insert(allowance).values(
      rights.map(({ unit, amount, period, carriesOver }) => ({
        agreementId: draft.id,
        unit,
        amount,
        period,
        carriesOver,
      })),
    );
  if (!sameCustomer) return source.number;
  const schedules = await tx.db
    .select()
    .from(schedule)
    // What ended with a machine that was swapped out goes on under the one that came in.
    .where(and(eq(schedule.agreementId, sourceId), isNull(schedule.holdsTo)));
  if (schedules.length > 0)
    await tx.db
      .insert(schedule)
      .values(schedules.map(({ id: _, ...s }) => ({ ...s, ...OF_ITS_OWN, agreementId: draft.id })));
  return source.number;
}
