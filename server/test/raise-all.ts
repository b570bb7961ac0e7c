// A run begun and carried out as a person would.
import { asId, type PersonId } from '#core/ids.ts';
import { asZone, localDateAt, type Instant, type LocalDate } from '#core/time/index.ts';
import type { Database } from '../src/platform/database.ts';
import { beginRun, carryOutRun, runOf } from '../src/upkeep/index.ts';

/** Raises what a run to a date owes, as a person would. */
export async function raiseAll(database: Database, to: LocalDate, now: Instant, name = 'runner') {
  const who = {
    ...{ id: asId<PersonId>(1), name, email: '', role: 'coordinator' as const },
    zone: asZone('Europe/Lisbon'),
  };
  const begin = { to, scope: {}, only: null, seen: null };
  const id = await beginRun(database, begin, who, now, localDateAt(who.zone, now));
  await carryOutRun(database, id, who);
  return runOf(database.db, id);
}
