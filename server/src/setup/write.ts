// One way to change reference data: the change, its audit row and the notice to open screens in one transaction.
import { note } from '../platform/audit.ts';
import { isTaken, type Tx } from '../platform/database.ts';
import type { House, Person } from '../platform/http.ts';
import { announce } from '../platform/live.ts';
import { refuse } from '../platform/refuse.ts';

type SetupWriter = <T>(
  who: Person,
  subject: string,
  text: string,
  work: (tx: Tx) => Promise<{ id: number } & T>,
) => Promise<{ id: number } & T>;

export function setupWriter(house: House): SetupWriter {
  return async (who, subject, text, work) => {
    try {
      return await house.database.transact(async (tx) => {
        const result = await work(tx);
        await note(tx, who, subject, result.id, text);
        await announce(tx, 'setup');
        return result;
      });
    } catch (error) {
      if (isTaken(error)) refuse('taken', 'That name is taken; choose another.', 'name');
      throw error;
    }
  };
}
