// Suppliers, and which parts each has: their number for it, its price, its pack, and how long it takes.
import { and, asc, count, eq, gt, inArray, like, or } from 'drizzle-orm';
import { group } from 'd3-array';
import type { Asked, BodyOf } from '#api/contract.ts';
import type * as contracts from '#api/suppliers.ts';
import type { OfferedOut, SupplierOut } from '#api/suppliers.ts';
import type { PartId, SupplierId } from '#core/ids.ts';
import { seesMoney, type Role } from '#core/people.ts';
import type { Offered } from '#core/stores/index.ts';
import { bulkInsert, escapeLike, type Db, type Tx } from '../platform/database.ts';
import { refuse, stale } from '../platform/refuse.ts';
import { unlessNamed, type Write } from '../platform/writing.ts';
import { partSupplier, supplier } from './purchase-tables.ts';
import { part } from './tables.ts';

type SuppliersQuery = Asked<typeof contracts.listSuppliers>['query'];

export async function suppliersFound(db: Db, { q, retired, after, limit = 60 }: SuppliersQuery) {
  const rows = await db
    .select()
    .from(supplier)
    .where(
      and(
        q ? or(like(supplier.name, `%${escapeLike(q)}%`), like(supplier.email, `%${escapeLike(q)}%`)) : undefined,
        retired === 'with' ? undefined : eq(supplier.retired, false),
        after === undefined ? undefined : gt(supplier.name, after),
      ),
    )
    .orderBy(asc(supplier.name))
    .limit(limit + 1);
  const shown = rows.slice(0, limit);
  const ids = shown.map((r) => r.id);
  const counts =
    ids.length === 0
      ? []
      : await db
          .select({ id: partSupplier.supplierId, n: count() })
          .from(partSupplier)
          .where(inArray(partSupplier.supplierId, ids))
          .groupBy(partSupplier.supplierId);
  const partsOf = new Map(counts.map((c) => [c.id, c.n]));
  return {
    items: shown.map((r): SupplierOut => ({ ...r, parts: partsOf.get(r.id) ?? 0 })),
    next: rows.length > limit ? (shown.at(-1)?.name ?? null) : null,
  };
}

export const addSupplierOf = (write: Write, body: BodyOf<typeof contracts.addSupplier>): Promise<{ id: number }> =>
  unlessNamed('supplier', () =>
    write(async (tx, told) => {
      const [made] = await tx.db.insert(supplier).values(body).$returningId();
      const id = made?.id as SupplierId;
      told({ subject: 'supplier', id, text: `added ${body.name}` });
      return { id };
    }),
  );

export const changeSupplierOf = (
  write: Write,
  id: SupplierId,
  { version, ...body }: BodyOf<typeof contracts.changeSupplier>,
): Promise<void> =>
  unlessNamed('supplier', () =>
    write(async (tx, told) => {
      const [row] = await tx.db.select().from(supplier).where(eq(supplier.id, id)).for('update');
      if (!row) refuse('not-found', 'That supplier does not exist.');
      if (row.version !== version) stale(row);
      await tx.db
        .update(supplier)
        .set({ ...body, version: version + 1 })
        .where(eq(supplier.id, id));
      told({ subject: 'supplier', id, text: `changed ${body.name}` });
    }),
  );

export async function offeredOf(db: Db, id: PartId, role: Role): Promise<{ items: OfferedOut[] }> {
  const [known] = await db.select({ id: part.id }).from(part).where(eq(part.id, id));
  if (!known) refuse('not-found', 'That part does not exist.');
  const rows = await db
    .select({ of: partSupplier, supplier })
    .from(partSupplier)
    .innerJoin(supplier, eq(supplier.id, partSupplier.supplierId))
    .where(eq(partSupplier.partId, id))
    .orderBy(asc(supplier.retired), asc(supplier.name));
  return {
    items: rows.map(({ of, supplier: s }) => ({
      ...{ supplier: { id: s.id, name: s.name }, number: of.number, pack: of.pack, preferred: of.preferred },
      unitPrice: seesMoney(role) ? of.unitPrice : null,
      ...{ leadDays: of.leadDays, usualLeadDays: s.leadDays, version: of.version, retired: s.retired },
    })),
  };
}

const ofBoth = (partId: PartId, supplierId: SupplierId) =>
  and(eq(partSupplier.partId, partId), eq(partSupplier.supplierId, supplierId));

export const keepOfferedOf = (
  write: Write,
  { id, supplier: supplierId }: { readonly id: PartId; readonly supplier: SupplierId },
  { version, ...body }: BodyOf<typeof contracts.keepOffered>,
): Promise<void> =>
  write(async (tx, told) => {
    // One is the preferred one: whoever changes that waits for the part.
    const [known] = await tx.db.select().from(part).where(eq(part.id, id)).for('update');
    if (!known) refuse('not-found', 'That part does not exist.');
    const [who] = await tx.db.select().from(supplier).where(eq(supplier.id, supplierId));
    if (!who) refuse('not-found', 'That supplier does not exist; choose another.', 'supplier');
    const [row] = await tx.db.select().from(partSupplier).where(ofBoth(id, supplierId)).for('update');
    if ((row?.version ?? 0) !== version) stale({ id, version: row?.version ?? 0 });
    if (body.preferred)
      await tx.db
        .update(partSupplier)
        .set({ preferred: false })
        .where(and(eq(partSupplier.partId, id), eq(partSupplier.preferred, true)));
    await bulkInsert(
      tx.connection,
      'part_supplier',
      ['part_id', 'supplier_id', 'number', 'unit_price', 'pack', 'lead_days', 'preferred', 'version'],
      [[id, supplierId, body.number, body.unitPrice, body.pack, body.leadDays, body.preferred ? 1 : 0, version + 1]],
      `ON DUPLICATE KEY UPDATE ${['number', 'unit_price', 'pack', 'lead_days', 'preferred', 'version'].map((c) => `${c} = VALUES(${c})`).join(', ')}`,
    );
    told({ subject: 'part', id, text: `${who.name} has ${known.number}` });
  });

export const removeOfferedOf = (
  write: Write,
  { id, supplier: supplierId }: { readonly id: PartId; readonly supplier: SupplierId },
): Promise<void> =>
  write(async (tx, told) => {
    const [row] = await tx.db.select().from(partSupplier).where(ofBoth(id, supplierId)).for('update');
    if (!row) refuse('not-found', 'That supplier does not have it any more.');
    await tx.db.delete(partSupplier).where(ofBoth(id, supplierId));
    told({ subject: 'part', id, text: `one supplier less` });
  });

/** Of whom parts may be bought, for each part: of suppliers that are in use. */
export async function offersOf(
  { db }: Pick<Tx, 'db'>,
  ids: readonly PartId[],
): Promise<ReadonlyMap<PartId, readonly (Offered & { readonly name: string; readonly number: string })[]>> {
  if (ids.length === 0) return new Map();
  const rows = await db
    .select({ of: partSupplier, name: supplier.name, usual: supplier.leadDays })
    .from(partSupplier)
    .innerJoin(supplier, and(eq(supplier.id, partSupplier.supplierId), eq(supplier.retired, false)))
    .where(inArray(partSupplier.partId, [...ids]));
  return new Map(
    [...group(rows, (r) => r.of.partId)].map(([id, own]) => [
      id,
      own.map(({ of, name, usual }) => ({
        ...{ supplierId: of.supplierId, name, number: of.number, unitPrice: of.unitPrice, pack: of.pack },
        ...{ leadDays: of.leadDays ?? usual, preferred: of.preferred },
      })),
    ]),
  );
}
