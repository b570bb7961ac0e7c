// The cover verdict for all machines at a place or of a customer at once: those with the same answer stand together.
import { and, asc, eq, inArray, like, type SQL } from 'drizzle-orm';
import type { CustomerId, LocationId } from '#core/ids.ts';
import { calendarBook } from '../calendars/index.ts';
import type { Db } from '../platform/database.ts';
import { refuse } from '../platform/refuse.ts';
import { location } from '../places/tables.ts';
import { asset } from '../assets/tables.ts';
import { coversOf, type CoverSubject } from './covers.ts';
import { takeDecisions, verdictOutOf, type AskedOf, type Taken } from './verdicts.ts';

/** So many machines are decided at once; more are asked place by place. */
const AT_MOST = 1000;
const STANDING = inArray(asset.state, ['in service', 'out of service']);

async function whoseMachines(db: Db, of: { location?: LocationId; customer?: CustomerId }): Promise<SQL | undefined> {
  const own = of.customer === undefined ? undefined : eq(asset.customerId, of.customer);
  if (of.location === undefined) {
    if (own === undefined) refuse('missing', 'Name a place or a customer to ask about.', 'customer');
    return and(STANDING, own);
  }
  const [place] = await db.select({ path: location.path }).from(location).where(eq(location.id, of.location));
  if (!place) refuse('not-found', 'That place does not exist.', 'location');
  const below = db
    .select({ id: location.id })
    .from(location)
    .where(like(location.path, `${place.path}%`));
  return and(STANDING, own, inArray(asset.locationId, below));
}

export async function askMany(db: Db, of: { location?: LocationId; customer?: CustomerId }, ask: AskedOf) {
  const where = await whoseMachines(db, of);
  const ids = await db
    .select({ id: asset.id })
    .from(asset)
    .where(where)
    .orderBy(asc(asset.tag))
    .limit(AT_MOST + 1);
  if (ids.length > AT_MOST)
    refuse('too-large', `More than ${AT_MOST} machines stand there; ask about a place further down.`, 'location');
  const subjects = await coversOf(
    db,
    ids.map((r) => r.id),
  );
  const inOrder = ids.flatMap((r) => subjects.get(r.id) ?? []);
  const taken = await takeDecisions(db, await calendarBook(db), inOrder, ask);
  const alike = new Map<string, { first: Taken; machines: CoverSubject[] }>();
  inOrder.forEach((subject, i) => {
    const answer = taken[i] as Taken;
    const key = `${answer.sentence}\n${answer.promise}`;
    const known = alike.get(key);
    if (known) known.machines.push(subject);
    else alike.set(key, { first: answer, machines: [subject] });
  });
  return {
    asked: ids.length,
    answers: [...alike.values()]
      .sort((a, b) => b.machines.length - a.machines.length)
      .map(({ first, machines }) => ({
        verdict: verdictOutOf(first),
        machines: machines.map((m) => ({ id: m.asset.id, tag: m.tag, model: m.model, place: m.place.label })),
      })),
  };
}
