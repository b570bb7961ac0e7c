// The finder's index: a vocabulary with its letter groups, and which things are known by which words. Rebuilt from the tables at any time.
import { customType, index, int, mysqlEnum, mysqlTable, primaryKey, uniqueIndex } from 'drizzle-orm/mysql-core';
import { reference, rowId } from './columns.ts';

export const FOUND_KINDS = ['asset', 'customer', 'location', 'agreement', 'order'] as const;
export type FoundKind = (typeof FOUND_KINDS)[number];

/** Words come without case and accents already: they are compared letter by letter. */
const exactText = (length: number) =>
  customType<{ data: string; driverData: string }>({
    dataType: () => `varchar(${length}) character set utf8mb4 collate utf8mb4_bin`,
  })();

export const findWord = mysqlTable('find_word', { id: rowId<number>(), word: exactText(40).notNull() }, (t) => [
  uniqueIndex('find_word_word').on(t.word),
]);

export const findGram = mysqlTable(
  'find_gram',
  { gram: exactText(3).notNull(), wordId: reference<number>().notNull() },
  (t) => [primaryKey({ columns: [t.gram, t.wordId] })],
);

export const findPosting = mysqlTable(
  'find_posting',
  {
    wordId: reference<number>().notNull(),
    kind: mysqlEnum(FOUND_KINDS).notNull(),
    subjectId: int({ unsigned: true }).notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.wordId, t.kind, t.subjectId] }),
    index('find_posting_subject').on(t.kind, t.subjectId, t.wordId),
  ],
);
