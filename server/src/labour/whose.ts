// Whose time is entered, and by whom: one's own, anybody's by the office, and on site that of whoever goes along.
import { and, eq } from 'drizzle-orm';
import { alias } from 'drizzle-orm/mysql-core';
import type { PersonId } from '#core/ids.ts';
import { entersTimeFor } from '#core/people.ts';
import type { Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { refuse } from '../platform/refuse.ts';
import { person } from '../platform/tables.ts';
import { appointmentPerson } from '../rota/tables.ts';

export type Whose = typeof person.$inferSelect;

/** Whether two go to an appointment together: whoever has the phone at hand enters what both worked. */
async function goTogether(tx: Tx, one: PersonId, other: PersonId): Promise<boolean> {
  const along = alias(appointmentPerson, 'along');
  const [row] = await tx.db
    .select({ id: appointmentPerson.appointmentId })
    .from(appointmentPerson)
    .innerJoin(along, eq(along.appointmentId, appointmentPerson.appointmentId))
    .where(and(eq(appointmentPerson.personId, one), eq(along.personId, other)))
    .limit(1);
  return row !== undefined;
}

/** Whose time it is, locked. Refused: others' time but by the office, or on site of who goes along; and people who are not there. */
export async function lockWhose(tx: Tx, who: Person, id: PersonId): Promise<Whose> {
  if (!entersTimeFor(who, id) && !(who.onSite && (await goTogether(tx, who.id, id))))
    refuse('not-allowed', 'Time is entered for oneself; the office enters it for others.', 'personId');
  const [of] = await tx.db.select().from(person).where(eq(person.id, id)).for('update');
  return of ?? refuse('not-found', 'That person does not exist; choose another.', 'personId');
}
