// Absences: entered by the office, or asked for by whose they are and agreed to or refused.
import { and, asc, eq, gt, inArray, ne } from 'drizzle-orm';
import { alias } from 'drizzle-orm/mysql-core';
import type { BodyOf } from '#api/contract.ts';
import type { AbsenceOut, addAbsence, changeAbsence } from '#api/rota-people.ts';
import type { AbsenceId, PersonId } from '#core/ids.ts';
import { agreesToAbsenceOf, isOffice } from '#core/people.ts';
import { checkAbsence, sayAbsence, type AbsenceState } from '#core/rota/index.ts';
import type { Instant, InstantSpan } from '#core/time/index.ts';
import type { Db, Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { refuse, Refused, stale } from '../platform/refuse.ts';
import { contentOf, mustBeSame } from '../platform/request-key.ts';
import { person } from '../platform/tables.ts';
import type { Write } from '../platform/writing.ts';
import { appointmentsOf } from './days.ts';
import { absence } from './tables.ts';

type Row = typeof absence.$inferSelect;
const SHOWN = 200;

/** Whose it is and who asks: one's own while nobody decided, anybody's for the office but for one's own that was agreed to. */
function mayChange(who: Person, row: Pick<Row, 'personId' | 'state'>): boolean {
  if (who.id === row.personId) return row.state === 'asked' || row.state === 'refused';
  return isOffice(who.role);
}

export async function listAbsences(
  db: Db,
  who: Person,
  { from, person: of }: { readonly from: Instant; readonly person: PersonId | undefined },
): Promise<{ items: AbsenceOut[]; more: boolean }> {
  const decider = alias(person, 'decider');
  const own = isOffice(who.role) ? of : who.id;
  const rows = await db
    .select({ absence, name: person.name, zone: person.zone, decidedBy: decider.name })
    .from(absence)
    .innerJoin(person, eq(person.id, absence.personId))
    .leftJoin(decider, eq(decider.id, absence.decidedBy))
    .where(and(gt(absence.toAt, from), own === undefined ? undefined : eq(absence.personId, own)))
    .orderBy(asc(absence.fromAt), asc(absence.id))
    .limit(SHOWN + 1);
  const shown = rows.slice(0, SHOWN);
  const spans = shown.map((r) => r.absence);
  const taken =
    spans.length === 0
      ? []
      : await appointmentsOf(db, [...new Set(spans.map((s) => s.personId))], {
          from: Math.min(...spans.map((s) => s.fromAt)) as Instant,
          to: Math.max(...spans.map((s) => s.toAt)) as Instant,
        });
  return {
    more: rows.length > SHOWN,
    items: shown.map(({ absence: a, name, zone, decidedBy }) => ({
      ...{ id: a.id, version: a.version, person: { id: a.personId, name }, zone, kind: a.kind, state: a.state },
      ...{ from: a.fromAt, to: a.toAt, text: a.text, decidedText: a.decidedText, decidedBy },
      appointments: taken.filter((t) => t.personIds.includes(a.personId) && t.fromAt < a.toAt && t.toAt > a.fromAt)
        .length,
      mayDecide: a.state === 'asked' && agreesToAbsenceOf(who, a.personId),
      mayChange: mayChange(who, a),
    })),
  };
}

/** Holds whose it is, so that two for one person come one after the other; then looks at the others of theirs. */
async function mustFit(
  tx: Tx,
  personId: PersonId,
  span: InstantSpan,
  but: AbsenceId | null,
): Promise<{ name: string }> {
  const [known] = await tx.db.select().from(person).where(eq(person.id, personId)).for('update');
  if (!known?.active) refuse('not-found', 'There is no such person; choose another.', 'personId');
  const others = await tx.db
    .select()
    .from(absence)
    .where(and(eq(absence.personId, personId), ne(absence.state, 'refused'), gt(absence.toAt, span.from)));
  const wrong = checkAbsence(
    span,
    others.filter((o) => o.id !== but).map((o) => ({ from: o.fromAt, to: o.toAt, kind: o.kind })),
    known.zone,
  );
  if (wrong.length > 0) throw new Refused(wrong);
  return known;
}

export function addAbsenceOf(
  write: Write,
  who: Person,
  body: BodyOf<typeof addAbsence>,
): Promise<{ id: number; state: AbsenceState }> {
  const { requestKey, personId, kind, from, to, text } = body;
  if (personId !== who.id && !isOffice(who.role))
    refuse('not-allowed', 'Ask for your own absences; the office enters those of others.', 'personId');
  const requestContent = contentOf({ personId, kind, from, to, text });
  return write(async (tx, told) => {
    const [whose] = await tx.db.select({ id: person.id }).from(person).where(eq(person.id, personId)).for('update');
    if (!whose) refuse('not-found', 'There is no such person; choose another.', 'personId');
    const [sent] = await tx.db.select().from(absence).where(eq(absence.requestKey, requestKey));
    if (sent) {
      mustBeSame(sent.requestContent, requestContent);
      return { id: sent.id, state: sent.state };
    }
    const known = await mustFit(tx, personId, { from, to }, null);
    // Whoever is sick is absent; nobody has to agree to that.
    const state: AbsenceState = personId === who.id && kind !== 'sick' ? 'asked' : 'agreed';
    const [row] = await tx.db
      .insert(absence)
      .values({
        ...{ personId, kind, state, fromAt: from, toAt: to, text, askedBy: who.id, requestKey, requestContent },
        decidedBy: state === 'agreed' ? who.id : null,
      })
      .$returningId();
    const id = row?.id as AbsenceId;
    told({
      subject: 'absence',
      id,
      text: `${known.name} ${sayAbsence(kind)}${state === 'asked' ? ', asked for' : ''}`,
    });
    return { id, state };
  });
}

/** Holds it. Refused: gone, not theirs, or changed since it was read. */
async function holdMine(tx: Tx, who: Person, id: AbsenceId, version: number): Promise<Row> {
  const [row] = await tx.db.select().from(absence).where(eq(absence.id, id)).for('update');
  if (!row) refuse('not-found', 'That absence was taken back meanwhile.');
  if (!mayChange(who, row))
    refuse(
      'not-allowed',
      who.id === row.personId ? 'It was agreed to; ask the office to change it.' : 'That absence is not yours.',
    );
  if (row.version !== version) stale(row);
  return row;
}

export async function changeAbsenceOf(
  write: Write,
  who: Person,
  id: AbsenceId,
  { version, kind, from, to, text }: BodyOf<typeof changeAbsence>,
): Promise<void> {
  await write(async (tx, told) => {
    const row = await holdMine(tx, who, id, version);
    const known = await mustFit(tx, row.personId, { from, to }, id);
    await tx.db
      .update(absence)
      .set({
        ...{ kind, fromAt: from, toAt: to, text, version: version + 1 },
        // Asked for anew: what was refused is looked at again.
        ...(row.state === 'refused' && { state: 'asked' as const, decidedBy: null, decidedText: '' }),
      })
      .where(eq(absence.id, id));
    told({ subject: 'absence', id, text: `${known.name} ${sayAbsence(kind)}, changed` });
  });
}

export async function decideAbsenceOf(
  write: Write,
  who: Person,
  id: AbsenceId,
  { version, agreed, text }: { readonly version: number; readonly agreed: boolean; readonly text: string },
): Promise<void> {
  if (!agreed && text === '') refuse('missing', 'Say why it is refused.', 'text');
  await write(async (tx, told) => {
    const [row] = await tx.db.select().from(absence).where(eq(absence.id, id)).for('update');
    if (!row) refuse('not-found', 'That absence was taken back meanwhile.');
    if (!agreesToAbsenceOf(who, row.personId))
      refuse('not-allowed', 'Somebody else of the office decides on your own.');
    if (row.version !== version) stale(row);
    if (row.state !== 'asked') refuse('wrong-stage', `It was ${row.state} already.`);
    await tx.db
      .update(absence)
      .set({ state: agreed ? 'agreed' : 'refused', decidedBy: who.id, decidedText: text, version: version + 1 })
      .where(eq(absence.id, id));
    told({ subject: 'absence', id, text: agreed ? 'agreed to' : `refused: ${text}` });
  });
}

export async function removeAbsenceOf(write: Write, who: Person, id: AbsenceId, version: number): Promise<void> {
  await write(async (tx, told) => {
    await holdMine(tx, who, id, version);
    await tx.db.delete(absence).where(eq(absence.id, id));
    told({ subject: 'absence', id, text: 'taken back' });
  });
}

/** Absences that somebody must decide on. */
export const askedAbsences = (db: Db) =>
  db
    .select({ id: absence.id, name: person.name, kind: absence.kind, from: absence.fromAt, zone: person.zone })
    .from(absence)
    .innerJoin(person, eq(person.id, absence.personId))
    .where(inArray(absence.state, ['asked']))
    .orderBy(asc(absence.fromAt))
    .limit(100);
