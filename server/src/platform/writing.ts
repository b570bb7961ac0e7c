// One way to write: the change, its audit row and the notice to open screens in one transaction.
import { note } from './audit.ts';
import { isTaken, type Tx } from './database.ts';
import type { House, Person } from './http.ts';
import { announce, type Tag } from './live.ts';
import { refuse } from './refuse.ts';

export type Written = {
  readonly subject: string;
  readonly id: number;
  /** What changed, for the audit. */
  readonly text: string;
  readonly tags: readonly Tag[];
};

/** Runs `work`, which writes and says what it wrote by `told`; the same transaction keeps who did it. */
export function writing<T>(
  house: House,
  who: Person,
  work: (tx: Tx, told: (written: Written) => void) => Promise<T>,
): Promise<T> {
  return house.database.transact(async (tx) => {
    const all: Written[] = [];
    const result = await work(tx, (written) => all.push(written));
    for (const w of all) await note(tx, who, w.subject, w.id, w.text);
    const tags = [...new Set(all.flatMap((w) => w.tags))];
    if (tags.length > 0) await announce(tx, ...tags);
    return result;
  });
}

/** Runs `work`; what a unique key refuses is refused at the field that holds the taken name. */
export async function unlessTaken<T>(message: string, field: string, work: () => Promise<T>): Promise<T> {
  try {
    return await work();
  } catch (error) {
    if (isTaken(error)) refuse('taken', message, field);
    throw error;
  }
}
