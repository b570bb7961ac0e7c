// Files: photos and PDFs, checked by what they hold, kept once by their hash in chunks in the database.
import { and, desc, eq } from 'drizzle-orm';
import type { FastifyInstance } from 'fastify';
import fp from 'fastify-plugin';
import { fileTypeFromBuffer } from 'file-type';
import * as contracts from '#api/files.ts';
import { type ATTACHED_TO, MAX_FILE_BYTES, type FileSubject } from '#api/files.ts';
import type { AttachmentId, PersonId } from '#core/ids.ts';
import type { Instant } from '#core/time/index.ts';
import { isTaken, type Tx } from '../platform/database.ts';
import { isOffice, seesMoney, OFFICE, removesFile } from '#core/people.ts';
import { authorised, type House, type Person, serve } from '../platform/http.ts';
import { refuse } from '../platform/refuse.ts';
import type { Told } from '../platform/writing.ts';
import { workOrder } from '../orders/tables.ts';
import { keepContent, readContent } from '../platform/content.ts';
import { fileChunk, fileContent, person } from '../platform/tables.ts';
import { customer } from '../customers/tables.ts';
import { location } from '../places/tables.ts';
import { asset, attachment } from './tables.ts';
import { agreement } from '../agreements/tables.ts';
import { offer } from '../offers/tables.ts';

const TAKEN = new Map([
  ['image/jpeg', ['jpg', 'jpeg']],
  ['image/png', ['png']],
  ['image/webp', ['webp']],
  ['application/pdf', ['pdf']],
]);

const megabytes = (bytes: number): string => `${(bytes / 1024 / 1024).toFixed(1)} MB`;

/** What the bytes are, whatever the name says; refused when it is none of the kinds taken, or not what the name says. */
export async function mediaTypeOf(name: string, bytes: Buffer): Promise<string> {
  if (bytes.length > MAX_FILE_BYTES)
    refuse(
      'too-large',
      `The file has ${megabytes(bytes.length)}; at most ${megabytes(MAX_FILE_BYTES)} are kept. Make the photo smaller.`,
      'file',
    );
  if (bytes.length === 0) refuse('missing', 'The file is empty; choose another.', 'file');
  const found = await fileTypeFromBuffer(bytes);
  const endings = found && TAKEN.get(found.mime);
  if (!found || !endings)
    refuse(
      'malformed',
      `“${name}” is ${found ? `a ${found.mime} file` : 'not a photo or PDF'}; attach JPEG, PNG, WebP or PDF.`,
      'file',
    );
  const ending = /\.([A-Za-z0-9]+)$/.exec(name)?.[1]?.toLowerCase();
  if (ending !== undefined && !endings.includes(ending))
    refuse(
      'malformed',
      `“${name}” holds a ${found.mime} file, not what its name says; rename it to .${endings[0]}.`,
      'file',
    );
  return found.mime;
}

async function mustExist(tx: Tx, subject: (typeof ATTACHED_TO)[number], id: number): Promise<void> {
  const table = { customer, location, asset, agreement, order: workOrder, offer }[subject];
  const [row] = await tx.db
    .select({ id: table.id })
    .from(table)
    .where(eq(table.id, id as never));
  if (!row) refuse('not-found', `That ${subject === 'location' ? 'place' : subject} does not exist.`);
}

type Attached = {
  readonly subject: (typeof ATTACHED_TO)[number];
  readonly subjectId: number;
  readonly name: string;
  readonly sha256: string;
  /** Null: drawn by the house itself. */
  readonly personId: PersonId | null;
};

/** Attaches what is kept already. */
export async function attachIn(tx: Tx, told: Told, file: Attached, now: Instant): Promise<AttachmentId> {
  const { subject, subjectId, name, sha256, personId } = file;
  const [made] = await tx.db
    .insert(attachment)
    .values({ subject, subjectId, name, sha256, at: now, personId })
    .$returningId();
  told({ subject, id: subjectId, text: `attached ${name}` });
  return made?.id as AttachmentId;
}

/** Agreement documents and mail are for the desk. */
function mayRead(who: Person, subject: FileSubject): void {
  const isForDesk = subject === 'mail' || subject === 'offer';
  if ((subject === 'agreement' && !seesMoney(who.role)) || (isForDesk && !isOffice(who.role)))
    refuse('not-allowed', `${isForDesk ? 'This is' : 'Agreement documents are'} for: ${OFFICE.join(', ')}.`);
}

function listRoutes(app: FastifyInstance, house: House): void {
  const { db } = house.database;
  serve(app, house, contracts.listFiles, async ({ query, who }) => {
    mayRead(who, query.subject);
    const items = await db
      .select({
        id: attachment.id,
        name: attachment.name,
        mediaType: fileContent.mediaType,
        bytes: fileContent.bytes,
        at: attachment.at,
        who: person.name,
      })
      .from(attachment)
      .innerJoin(fileContent, eq(fileContent.sha256, attachment.sha256))
      .leftJoin(person, eq(person.id, attachment.personId))
      .where(and(eq(attachment.subject, query.subject), eq(attachment.subjectId, query.subjectId)))
      .orderBy(desc(attachment.at), desc(attachment.id))
      .limit(200);
    return { items };
  });
  serve(app, house, contracts.addFile, async ({ query, body, who, now, write }) => {
    mayRead(who, query.subject);
    const bytes = body as Buffer;
    const mediaType = await mediaTypeOf(query.name, bytes);
    try {
      return await write(async (tx, told) => {
        await mustExist(tx, query.subject, query.subjectId);
        const sha256 = await keepContent(tx, bytes, mediaType);
        const id = await attachIn(tx, told, { ...query, sha256, personId: who.id }, now);
        return { id };
      });
    } catch (error) {
      if (isTaken(error)) refuse('taken', `There is a file called “${query.name}” already; rename this one.`, 'file');
      throw error;
    }
  });
  serve(app, house, contracts.removeFile, ({ params, who, write }) =>
    write(async (tx, told) => {
      const [row] = await tx.db.select().from(attachment).where(eq(attachment.id, params.id)).for('update');
      if (!row) refuse('not-found', 'That file does not exist any more.');
      mayRead(who, row.subject);
      if (row.subject === 'mail') refuse('not-allowed', 'What came by mail stays as it came.');
      if (!removesFile(who, row.personId))
        refuse('not-allowed', 'A technician removes only what they attached themselves; ask a coordinator.');
      await tx.db.delete(attachment).where(eq(attachment.id, row.id));
      // The content goes with the last thing that names it.
      const [other] = await tx.db
        .select({ id: attachment.id })
        .from(attachment)
        .where(eq(attachment.sha256, row.sha256))
        .limit(1);
      if (!other) {
        await tx.db.delete(fileChunk).where(eq(fileChunk.sha256, row.sha256));
        await tx.db.delete(fileContent).where(eq(fileContent.sha256, row.sha256));
      }
      told({ subject: row.subject, id: row.subjectId, text: `removed ${row.name}` });
      return { done: true as const };
    }),
  );
}

/** The file itself, for whoever may read what it hangs on. */
function contentRoute(app: FastifyInstance, { database: { db } }: House): void {
  app.get<{ Params: { id: string } }>(
    '/api/files/:id/content',
    { schema: { summary: 'The file itself', tags: ['files'] } },
    async (request, reply) => {
      const who = authorised(request, 'signed in');
      const id = /^[1-9]\d{0,9}$/.test(request.params.id) ? (Number(request.params.id) as AttachmentId) : null;
      const [row] =
        id === null
          ? []
          : await db
              .select({
                subject: attachment.subject,
                name: attachment.name,
                sha256: attachment.sha256,
                mediaType: fileContent.mediaType,
              })
              .from(attachment)
              .innerJoin(fileContent, eq(fileContent.sha256, attachment.sha256))
              .where(eq(attachment.id, id));
      if (!row) refuse('not-found', 'That file does not exist any more.');
      mayRead(who, row.subject);
      void reply.header('cache-control', 'no-cache, private');
      if (request.headers['if-none-match'] === `"${row.sha256}"`) return reply.code(304).send();
      return reply
        .type(row.mediaType)
        .header('etag', `"${row.sha256}"`)
        .header('content-disposition', `inline; filename*=UTF-8''${encodeURIComponent(row.name)}`)
        .send(await readContent(db, row.sha256));
    },
  );
}

export const fileRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    listRoutes(app, house);
    contentRoute(app, house);
  },
  { name: 'stavok-file-routes', dependencies: ['stavok-authentication'] },
);
