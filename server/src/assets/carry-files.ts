// Files that hang on an order too, of what it was made of: a message, an offer. The content is kept once.
import { and, eq } from 'drizzle-orm';
import type { FileSubject } from '#api/files.ts';
import type { OrderId } from '#core/ids.ts';
import type { Tx } from '../platform/database.ts';
import { attachment } from './tables.ts';

/** The name, with a number where it is taken already. */
export function freeName(taken: Set<string>, name: string): string {
  let free = name;
  for (let i = 2; taken.has(free.toLowerCase()); i += 1) free = `${i} ${name}`.slice(0, 200);
  taken.add(free.toLowerCase());
  return free;
}

/** The names that files of something have, in small letters. */
export async function namesAttached(tx: Tx, subject: FileSubject, id: number): Promise<Set<string>> {
  const rows = await tx.db
    .select({ name: attachment.name })
    .from(attachment)
    .where(and(eq(attachment.subject, subject), eq(attachment.subjectId, id)));
  return new Set(rows.map((r) => r.name.toLowerCase()));
}

export async function carryFiles(
  tx: Tx,
  from: { readonly subject: 'mail' | 'offer'; readonly id: number },
  orderId: OrderId,
): Promise<void> {
  const of = (subject: 'mail' | 'offer' | 'order', id: number) =>
    tx.db
      .select()
      .from(attachment)
      .where(and(eq(attachment.subject, subject), eq(attachment.subjectId, id)));
  const [own, there] = [await of(from.subject, from.id), await of('order', orderId)];
  const held = new Set(there.map((f) => f.sha256));
  const taken = new Set(there.map((f) => f.name.toLowerCase()));
  const carried = own
    .filter((f) => !held.has(f.sha256))
    .map(({ name, sha256, at, personId }) => ({
      ...{ subject: 'order' as const, subjectId: orderId, name: freeName(taken, name), sha256, at, personId },
    }));
  if (carried.length > 0) await tx.db.insert(attachment).values(carried);
}
