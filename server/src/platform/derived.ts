// Rows that follow from events: compared with what the events say, and put right where they differ.
import type { Instant } from '#core/time/index.ts';
import type { Database, Tx } from './database.ts';

export type Batch = {
  /** The last subject looked at; null when there are no more. */
  readonly last: number | null;
  readonly seen: number;
  /** What differs, a line each. */
  readonly differing: readonly string[];
};

/** Rows of one kind of subject. `look` takes the next subjects after an id, in the order of ids; it writes only when told to mend. */
export type DerivedRows = {
  readonly what: string;
  look(tx: Tx, after: number, now: Instant, mend: boolean): Promise<Batch>;
};

export type Rebuilt = { readonly what: string; readonly seen: number; readonly differing: readonly string[] };

const SHOWN = 50;

/** Goes through all subjects of each kind, a batch a transaction; more than fifty differences of a kind are counted, not listed. */
export async function rebuild(
  database: Database,
  kinds: readonly DerivedRows[],
  now: Instant,
  mend: boolean,
): Promise<Rebuilt[]> {
  const results: Rebuilt[] = [];
  for (const kind of kinds) {
    let [seen, more] = [0, 0];
    const differing: string[] = [];
    for (let after: number | null = 0; after !== null;) {
      const from: number = after;
      const batch: Batch = await database.transact((tx) => kind.look(tx, from, now, mend));
      seen += batch.seen;
      for (const line of batch.differing)
        if (differing.length < SHOWN) differing.push(line);
        else more += 1;
      after = batch.last;
    }
    results.push({ what: kind.what, seen, differing: more > 0 ? [...differing, `and ${more} more`] : differing });
  }
  return results;
}

/** The columns in which a row differs from what it should hold, as words. */
export function differences<T extends object>(held: T, said: T): string[] {
  return (Object.keys(said) as (keyof T & string)[])
    .filter((key) => JSON.stringify(held[key]) !== JSON.stringify(said[key]))
    .map((key) => `${key} is ${JSON.stringify(held[key])}, its events say ${JSON.stringify(said[key])}`);
}
