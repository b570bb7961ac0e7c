// Previews that are the act itself, given up: the change is made in a transaction, looked at, and rolled back.
import type { Database, Tx } from './database.ts';

class GivenUp<T> extends Error {
  constructor(readonly result: T) {
    super('a preview is never kept');
  }
}

/** Runs `work` in a transaction that is always rolled back, and gives what it saw. Refusals pass through. */
export async function previewed<T>(database: Database, work: (tx: Tx) => Promise<T>): Promise<T> {
  try {
    return await database.transact(async (tx): Promise<T> => {
      throw new GivenUp(await work(tx));
    });
  } catch (error) {
    if (error instanceof GivenUp) return (error as GivenUp<T>).result;
    throw error;
  }
}
