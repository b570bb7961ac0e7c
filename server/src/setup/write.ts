// Writing reference data: a taken name is refused at its field.
import type { Tx } from '../platform/database.ts';
import type { House, Person } from '../platform/http.ts';
import { unlessTaken, writing } from '../platform/writing.ts';

type SetupWriter = <T>(
  who: Person,
  subject: string,
  text: string,
  work: (tx: Tx) => Promise<{ id: number } & T>,
) => Promise<{ id: number } & T>;

export function setupWriter(house: House): SetupWriter {
  return (who, subject, text, work) =>
    unlessTaken('That name is taken; choose another.', 'name', () =>
      writing(house, who, async (tx, told) => {
        const result = await work(tx);
        told({ subject, id: result.id, text, tags: ['setup'] });
        return result;
      }),
    );
}
