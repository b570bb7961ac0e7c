// What files hold: kept once by its hash, in chunks, whoever names it.
import { createHash } from 'node:crypto';
import { asc, eq } from 'drizzle-orm';
import type { Db, Tx } from './database.ts';
import { fileChunk, fileContent } from './tables.ts';

const CHUNK = 512 * 1024;

export async function keepContent(tx: Tx, bytes: Buffer, mediaType: string): Promise<string> {
  const sha256 = createHash('sha256').update(bytes).digest('hex');
  const [held] = await tx.db
    .select({ sha256: fileContent.sha256 })
    .from(fileContent)
    .where(eq(fileContent.sha256, sha256));
  if (held) return sha256;
  // Somebody else may be handing in the same content: then theirs stands.
  await tx.db
    .insert(fileContent)
    .values({ sha256, bytes: bytes.length, mediaType })
    .onDuplicateKeyUpdate({ set: { bytes: bytes.length } });
  for (let part = 0; part * CHUNK < bytes.length; part += 1)
    await tx.db
      .insert(fileChunk)
      .values({ sha256, part, data: bytes.subarray(part * CHUNK, (part + 1) * CHUNK) })
      .onDuplicateKeyUpdate({ set: { part } });
  return sha256;
}

export async function readContent(db: Db, sha256: string): Promise<Buffer> {
  const parts = await db
    .select({ data: fileChunk.data })
    .from(fileChunk)
    .where(eq(fileChunk.sha256, sha256))
    .orderBy(asc(fileChunk.part));
  return Buffer.concat(parts.map((p) => p.data));
}
