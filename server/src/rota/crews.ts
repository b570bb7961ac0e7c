// Crews: who goes together, for a day or from a day on.
import { group } from 'd3-array';
import { and, asc, eq, gte, inArray, isNull, lte, or } from 'drizzle-orm';
import type { BodyOf } from '#api/contract.ts';
import type { addCrew, changeCrew, CrewOut } from '#api/rota-people.ts';
import type { CrewId } from '#core/ids.ts';
import type { StandingCrew } from '#core/rota/index.ts';
import type { LocalDate } from '#core/time/index.ts';
import type { Db, Tx } from '../platform/database.ts';
import { refuse, stale } from '../platform/refuse.ts';
import { person } from '../platform/tables.ts';
import { unlessNamed, type Write } from '../platform/writing.ts';
import { crew, crewMember } from './tables.ts';

export async function listCrews(db: Db, from: LocalDate): Promise<{ items: CrewOut[] }> {
  const rows = await db
    .select()
    .from(crew)
    .where(or(isNull(crew.toDay), gte(crew.toDay, from)))
    .orderBy(asc(crew.name), asc(crew.fromDay))
    .limit(200);
  const members =
    rows.length === 0
      ? []
      : await db
          .select({ crewId: crewMember.crewId, id: person.id, name: person.name })
          .from(crewMember)
          .innerJoin(person, eq(person.id, crewMember.personId))
          .where(
            inArray(
              crewMember.crewId,
              rows.map((r) => r.id),
            ),
          )
          .orderBy(asc(crewMember.position));
  return {
    items: rows.map((r) => ({
      ...{ id: r.id, version: r.version, name: r.name, fromDay: r.fromDay, toDay: r.toDay },
      people: members.filter((m) => m.crewId === r.id).map(({ id, name }) => ({ id, name })),
    })),
  };
}

/** Who goes together on some of the dates, the leader first; crews of nobody but one are none. */
export async function crewsBetween(db: Db, from: LocalDate, to: LocalDate): Promise<StandingCrew[]> {
  const rows = await db
    .select({ id: crew.id, personId: crewMember.personId, fromDay: crew.fromDay, toDay: crew.toDay })
    .from(crew)
    .innerJoin(crewMember, eq(crewMember.crewId, crew.id))
    .where(and(lte(crew.fromDay, to), or(isNull(crew.toDay), gte(crew.toDay, from))))
    .orderBy(asc(crew.name), asc(crew.id), asc(crewMember.position));
  return [...group(rows, (r) => r.id).values()].map((own) => {
    const [{ fromDay, toDay }] = own as [(typeof rows)[number]];
    return { people: own.map((r) => r.personId), fromDay, toDay };
  });
}

async function checkCrew(tx: Tx, { people, fromDay, toDay }: BodyOf<typeof addCrew>): Promise<void> {
  if (toDay !== null && toDay < fromDay) refuse('invalid', 'It ends before it begins; give a later day.', 'toDay');
  if (new Set(people).size < people.length) refuse('invalid', 'Name each person once.', 'people');
  const known = await tx.db
    .select({ id: person.id })
    .from(person)
    .where(and(inArray(person.id, people), eq(person.role, 'technician'), eq(person.active, true)));
  if (known.length < people.length)
    refuse('not-found', 'Somebody named is no technician here; choose others.', 'people');
}

const putMembers = (tx: Tx, crewId: CrewId, people: BodyOf<typeof addCrew>['people']) =>
  tx.db.insert(crewMember).values(people.map((personId, position) => ({ crewId, personId, position })));

export const addCrewOf = (write: Write, body: BodyOf<typeof addCrew>): Promise<{ id: number }> =>
  unlessNamed('crew', () =>
    write(async (tx, told) => {
      await checkCrew(tx, body);
      const { people, ...named } = body;
      const [row] = await tx.db.insert(crew).values(named).$returningId();
      const id = row?.id as CrewId;
      await putMembers(tx, id, people);
      told({ subject: 'crew', id, text: `added ${body.name}` });
      return { id };
    }),
  );

export async function changeCrewOf(write: Write, id: CrewId, body: BodyOf<typeof changeCrew>): Promise<void> {
  await unlessNamed('crew', () =>
    write(async (tx, told) => {
      const [row] = await tx.db.select().from(crew).where(eq(crew.id, id)).for('update');
      if (!row) refuse('not-found', 'That crew does not exist.');
      if (row.version !== body.version) stale(row);
      await checkCrew(tx, body);
      const { people, version, ...named } = body;
      await tx.db
        .update(crew)
        .set({ ...named, version: version + 1 })
        .where(eq(crew.id, id));
      await tx.db.delete(crewMember).where(eq(crewMember.crewId, id));
      await putMembers(tx, id, people);
      told({ subject: 'crew', id, text: `changed ${body.name}` });
    }),
  );
}
