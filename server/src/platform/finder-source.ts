// What a room lets the finder find: the words its things are known by, and how they show.
import { asc, gt, sql } from 'drizzle-orm';
import type { MySqlColumn } from 'drizzle-orm/mysql-core';
import type { FoundKind, Hit } from '#api/finder.ts';
import type { AssetClassId, CustomerId } from '#core/ids.ts';
import { identifierWords, wordsOf, type KnownBy } from '#core/finder.ts';
import type { Role } from '#core/people.ts';
import type { Instant, LocalDate } from '#core/time/index.ts';
import type { Db } from './database.ts';
import type { Lane } from './lanes.ts';

/** What a subject is known by; what its row in the finder shows anyway has no name. */
export type Known = { readonly id: number; readonly by: readonly KnownBy[] };

/** What changed that other rooms' things are known by: customers and classes that were renamed, places (by path) with all below them. */
export type Renamed = {
  readonly customers?: readonly CustomerId[];
  readonly classes?: readonly AssetClassId[];
  readonly places?: readonly string[];
};

export type At = { readonly now: Instant; readonly today: LocalDate; readonly lanes: readonly Lane[] };

/** How a hit shows; `matched` is the finder's to say. */
export type Shown = Omit<Hit, 'kind' | 'matched'>;

export type FinderSource = {
  readonly kind: FoundKind;
  /** Who is shown what it finds; left out: everybody. */
  readonly shownTo?: readonly Role[];
  knownOf(db: Db, ids: readonly number[]): Promise<Known[]>;
  /** Ids behind `after`, in their order. */
  page(db: Db, after: number, limit: number): Promise<number[]>;
  /** The things that are known by what was renamed. */
  under?(db: Db, renamed: Renamed): Promise<number[]>;
  /** What is called by exactly this, a number: it is shown instead of what words would find. */
  called?(db: Db, asked: string): Promise<number[]>;
  show(db: Db, ids: readonly number[], at: At): Promise<Shown[]>;
};

/** Ids of a table behind one, in their order. */
export async function idsBehind<Id extends MySqlColumn>(
  db: Db,
  id: Id,
  after: number,
  limit: number,
): Promise<number[]> {
  const rows = await db
    .select({ id: sql<number>`${id}`.mapWith(Number) })
    .from(id.table)
    .where(gt(id, after))
    .orderBy(asc(id))
    .limit(limit);
  return rows.map((r) => r.id);
}

const IN_ROW = '';

export const text = (what: string, value: string | null): KnownBy => ({
  what,
  value: value ?? '',
  words: wordsOf(value ?? ''),
});
export const identifier = (what: string, value: string | null): KnownBy => ({
  what,
  value: value ?? '',
  words: identifierWords(value ?? ''),
});
/** Words that the row shows anyway. */
export const shown = (value: string): KnownBy => text(IN_ROW, value);
/** A number or tag that the row shows anyway. */
export const shownIdentifier = (value: string | null): KnownBy => identifier(IN_ROW, value);
