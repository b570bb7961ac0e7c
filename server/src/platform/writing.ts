// One way to write: the change, its audit row and the notice to open screens in one transaction.
import type { PersonId } from '#core/ids.ts';
import { keepAudit } from './audit.ts';
import { isTaken, type Database, type Tx } from './database.ts';
import { announce, type Touching } from './live.ts';
import { refuse } from './refuse.ts';

export type Written = {
  readonly subject: string;
  readonly id: number;
  /** What changed, for the audit. */
  readonly text: string;
};

/** Where a command says what it wrote. */
export type Told = (written: Written) => void;

/** Runs `work`, which writes and says what it wrote by `told`; the same transaction keeps who did it. */
export type Write = <T>(work: (tx: Tx, told: Told) => Promise<T>, reading?: 'the latest') => Promise<T>;

export function writeAs(database: Database, who: { readonly id: PersonId }, contract: Touching): Write {
  return (work, reading) =>
    database.transact(async (tx) => {
      const all: Written[] = [];
      const result = await work(tx, (written) => all.push(written));
      for (const w of all) await keepAudit(tx, who, w.subject, w.id, w.text);
      const subjects = all.map(({ subject, id }) => ({ subject, id }));
      if (all.length > 0) await announce(tx, contract, subjects);
      return result;
    }, reading);
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

/** Runs `work`; a taken name is refused at its field. */
export const unlessNamed = <T>(what: string, work: () => Promise<T>): Promise<T> =>
  unlessTaken(`There is a ${what} of that name already; choose another.`, 'name', work);

/** Writes something that has a name of its own: a taken one is refused at its field. */
export const writeNamed = <T>(
  write: Write,
  subject: string,
  text: string,
  work: (tx: Tx) => Promise<{ id: number } & T>,
): Promise<{ id: number } & T> =>
  unlessTaken('That name is taken; choose another.', 'name', () =>
    write(async (tx, told) => {
      const result = await work(tx);
      told({ subject, id: result.id, text });
      return result;
    }),
  );
