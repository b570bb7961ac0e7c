// Files: content by its hash, in chunks, so that a backup and several servers have them too; attachments name what they belong to.
import {
  customType,
  index,
  int,
  mysqlEnum,
  mysqlTable,
  primaryKey,
  uniqueIndex,
  varchar,
} from 'drizzle-orm/mysql-core';
import { FILE_SUBJECTS } from '#api/files.ts';
import type { AttachmentId, PersonId } from '#core/ids.ts';
import { instantColumn, reference, rowId } from './columns.ts';

const chunkColumn = customType<{ data: Buffer; driverData: Buffer }>({ dataType: () => 'mediumblob' });

export const fileContent = mysqlTable('file_content', {
  sha256: varchar({ length: 64 }).primaryKey(),
  bytes: int({ unsigned: true }).notNull(),
  mediaType: varchar({ length: 80 }).notNull(),
});

export const fileChunk = mysqlTable(
  'file_chunk',
  {
    sha256: varchar({ length: 64 })
      .notNull()
      .references(() => fileContent.sha256),
    part: int().notNull(),
    data: chunkColumn().notNull(),
  },
  (t) => [primaryKey({ columns: [t.sha256, t.part] })],
);

export const attachment = mysqlTable(
  'attachment',
  {
    id: rowId<AttachmentId>(),
    subject: mysqlEnum(FILE_SUBJECTS).notNull(),
    subjectId: int({ unsigned: true }).notNull(),
    name: varchar({ length: 200 }).notNull(),
    sha256: varchar({ length: 64 })
      .notNull()
      .references(() => fileContent.sha256),
    at: instantColumn().notNull(),
    personId: reference<PersonId>(),
  },
  (t) => [
    uniqueIndex('attachment_subject').on(t.subject, t.subjectId, t.name),
    index('attachment_content').on(t.sha256),
  ],
);
