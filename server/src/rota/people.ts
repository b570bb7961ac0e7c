// Technicians as the rota knows them: where they start from, what they may do and until when.
import { and, asc, eq, inArray, isNotNull, lte } from 'drizzle-orm';
import type { BodyOf } from '#api/contract.ts';
import type { keepTechnician, TechnicianOut } from '#api/rota-people.ts';
import type { PersonId } from '#core/ids.ts';
import { addDays, type LocalDate } from '#core/time/index.ts';
import { calendar } from '../calendars/tables.ts';
import { depot, skill } from '../depots/tables.ts';
import { craft } from '../labour/tables.ts';
import type { Db, Tx } from '../platform/database.ts';
import { refuse, stale } from '../platform/refuse.ts';
import { person } from '../platform/tables.ts';
import type { Write } from '../platform/writing.ts';
import { personSkill, technician } from './tables.ts';

/** A certificate that lapses within so many days is said before it does. */
export const LAPSES_SOON_DAYS = 30;

const stateOf = (until: LocalDate | null, today: LocalDate): TechnicianOut['skills'][number]['state'] =>
  until === null || until > addDays(today, LAPSES_SOON_DAYS) ? 'holds' : until >= today ? 'lapses soon' : 'lapsed';

const technicians = (db: Db) =>
  db
    .select({
      ...{ id: person.id, name: person.name, zone: person.zone, phone: person.phone },
      ...{ craft: craft.name, calendar: calendar.name, depot: depot.name, kept: technician },
      ...{ depotLatitude: depot.latitude },
    })
    .from(person)
    .leftJoin(technician, eq(technician.personId, person.id))
    .leftJoin(depot, eq(depot.id, technician.depotId))
    .leftJoin(craft, eq(craft.id, person.craftId))
    .leftJoin(calendar, eq(calendar.id, person.calendarId))
    .where(and(eq(person.role, 'technician'), eq(person.active, true)))
    .orderBy(asc(depot.name), asc(person.name))
    .limit(500);
type Row = Awaited<ReturnType<typeof technicians>>[number];

/** What keeps somebody from being planned, each with what would help. */
function lacksOf({ calendar: works, kept, depotLatitude }: Row): string[] {
  const lacks = works === null ? ['no working calendar: give one in People'] : [];
  if (!kept || (kept.depotId === null && kept.startsFrom === 'depot'))
    return [...lacks, 'no depot: say where they start'];
  if (kept.startsFrom === 'home' && kept.latitude === null)
    return [...lacks, 'their home has no position: travel is unknown'];
  if (kept.startsFrom === 'depot' && depotLatitude === null)
    lacks.push('their depot has no position: travel is unknown');
  return lacks;
}

export async function readTechnicians(db: Db, today: LocalDate): Promise<{ items: TechnicianOut[] }> {
  const rows = await technicians(db);
  const held =
    rows.length === 0
      ? []
      : await db
          .select({ personId: personSkill.personId, skillId: skill.id, name: skill.name, until: personSkill.until })
          .from(personSkill)
          .innerJoin(skill, eq(skill.id, personSkill.skillId))
          .where(
            inArray(
              personSkill.personId,
              rows.map((r) => r.id),
            ),
          )
          .orderBy(asc(skill.name));
  return {
    items: rows.map((row) => ({
      ...{ id: row.id, name: row.name, zone: row.zone, phone: row.phone, craft: row.craft, calendar: row.calendar },
      ...{ version: row.kept?.version ?? 0, depotId: row.kept?.depotId ?? null, depot: row.depot },
      ...{ startsFrom: row.kept?.startsFrom ?? 'depot', home: row.kept?.home ?? '', van: row.kept?.van ?? '' },
      ...{ latitude: row.kept?.latitude ?? null, longitude: row.kept?.longitude ?? null },
      speaks: row.kept?.speaks ?? [],
      skills: held
        .filter((s) => s.personId === row.id)
        .map(({ skillId, name, until }) => ({ skillId, name, until, state: stateOf(until, today) })),
      lacks: lacksOf(row),
    })),
  };
}

async function mustExist(tx: Tx, body: BodyOf<typeof keepTechnician>): Promise<void> {
  const { depotId, skills, latitude, longitude } = body;
  if ((latitude === null) !== (longitude === null))
    refuse('missing', 'Give both latitude and longitude, or neither.', latitude === null ? 'latitude' : 'longitude');
  if (depotId !== null) {
    const [known] = await tx.db.select({ id: depot.id }).from(depot).where(eq(depot.id, depotId));
    if (!known) refuse('not-found', 'That depot does not exist; choose another.', 'depotId');
  }
  const ids = skills.map((s) => s.skillId);
  const twice = ids.findIndex((id, i) => ids.indexOf(id) !== i);
  if (twice >= 0) refuse('invalid', 'This skill is named twice; keep the one that holds.', `skills.${twice}.skillId`);
  const known = ids.length === 0 ? [] : await tx.db.select({ id: skill.id }).from(skill).where(inArray(skill.id, ids));
  const unknown = ids.findIndex((id) => !known.some((k) => k.id === id));
  if (unknown >= 0) refuse('not-found', 'That skill does not exist; choose another.', `skills.${unknown}.skillId`);
}

export async function keepTechnicianOf(write: Write, id: PersonId, body: BodyOf<typeof keepTechnician>): Promise<void> {
  const { version, skills, ...kept } = body;
  await write(async (tx, told) => {
    // The person stands for the row that may not be there yet.
    const [known] = await tx.db.select().from(person).where(eq(person.id, id)).for('update');
    if (!known || known.role !== 'technician') refuse('not-found', 'There is no such technician.');
    await mustExist(tx, body);
    const [row] = await tx.db.select().from(technician).where(eq(technician.personId, id));
    if ((row?.version ?? 0) !== version) stale({ ...row, version: row?.version ?? 0 });
    const values = { ...kept, version: version + 1 };
    if (row) await tx.db.update(technician).set(values).where(eq(technician.personId, id));
    else await tx.db.insert(technician).values({ personId: id, ...values });
    const before = await tx.db.select().from(personSkill).where(eq(personSkill.personId, id));
    if (before.length > 0) await tx.db.delete(personSkill).where(eq(personSkill.personId, id));
    if (skills.length > 0) await tx.db.insert(personSkill).values(skills.map((s) => ({ personId: id, ...s })));
    told({ subject: 'person', id, text: `${known.name}: start, van, languages and skills` });
  });
}

/** Skills that lapse within the next weeks or have, of people who work here. */
export async function lapsing(db: Db, today: LocalDate) {
  return db
    .select({ personId: person.id, name: person.name, skill: skill.name, until: personSkill.until })
    .from(personSkill)
    .innerJoin(person, eq(person.id, personSkill.personId))
    .innerJoin(skill, eq(skill.id, personSkill.skillId))
    .where(
      and(
        isNotNull(personSkill.until),
        lte(personSkill.until, addDays(today, LAPSES_SOON_DAYS)),
        eq(person.active, true),
        eq(person.role, 'technician'),
      ),
    )
    .orderBy(asc(personSkill.until), asc(person.name))
    .limit(200);
}
