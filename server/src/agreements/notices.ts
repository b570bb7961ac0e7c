// Notices to account managers: told before an agreement renews by itself, kept until they are put away.
import { and, asc, eq, gte, isNull, lte } from 'drizzle-orm';
import { managerIsTold, sayRenewal, TOLD_DAYS_AHEAD } from '#core/agreements/index.ts';
import type { Notices } from '#api/agreements/index.ts';
import type { NoticeId, PersonId } from '#core/ids.ts';
import { linkTo } from '#core/telling.ts';
import { addDays, type Instant, type LocalDate } from '#core/time/index.ts';
import { isTaken, type Database, type Db, type Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { refuse } from '../platform/refuse.ts';
import { person } from '../platform/tables.ts';
import { customer } from '../customers/tables.ts';
import { agreement, agreementNotice } from './tables.ts';
import { tellPeople } from '../outbox/index.ts';
import { tell } from './acts.ts';
import { RENEWAL_NOTICE } from './messages.ts';
import { renewalFactsOf } from './renewal-facts.ts';

const AT_ONCE = 1000;

/** Tells account managers which agreements are about to renew by themselves; each notice date is told once. */
export async function tellManagers(database: Database, today: LocalDate, now: Instant): Promise<number> {
  const rows = await database.db
    .select({ row: agreement, manager: person.name, customer: customer.name })
    .from(agreement)
    .innerJoin(person, eq(person.id, agreement.managerId))
    .innerJoin(customer, eq(customer.id, agreement.customerId))
    .leftJoin(
      agreementNotice,
      and(eq(agreementNotice.agreementId, agreement.id), eq(agreementNotice.noticeBy, agreement.noticeBy)),
    )
    .where(
      and(
        eq(agreement.stage, 'in force'),
        eq(agreement.renewalMode, 'renews by itself'),
        isNull(agreement.renewalDecision),
        gte(agreement.noticeBy, today),
        lte(agreement.noticeBy, addDays(today, TOLD_DAYS_AHEAD)),
        isNull(agreementNotice.id),
      ),
    )
    .limit(AT_ONCE);
  let told = 0;
  for (const { row, manager, customer: owner } of rows) {
    const facts = renewalFactsOf(row);
    if (row.managerId === null || row.noticeBy === null || !managerIsTold(facts, today)) continue;
    const { id: agreementId, managerId: personId, noticeBy } = row;
    const text = sayRenewal(facts, today);
    try {
      await database.transact(async (tx) => {
        await tx.db.insert(agreementNotice).values({ agreementId, personId, noticeBy, text, at: now });
        await tell(tx, agreementId, null, now, `${manager} told: ${text}`);
        await tellPeople(tx, RENEWAL_NOTICE, [personId], {
          key: `renewal ${agreementId} ${noticeBy}`,
          values: {
            name: manager,
            number: row.number,
            agreement: row.name,
            customer: owner,
            text,
            link: linkTo(`/agreements/${agreementId}`),
          },
          about: { subject: 'agreement', id: agreementId },
          now,
        });
      });
      told += 1;
    } catch (error) {
      // Another server told it first: the date's unique key says so.
      if (!isTaken(error)) throw error;
    }
  }
  return told;
}

/** What a person has been told about their agreements and not put away yet. */
async function noticesTo(db: Db, personId: PersonId) {
  return db
    .select({
      id: agreementNotice.id,
      agreementId: agreement.id,
      number: agreement.number,
      name: agreement.name,
      customer: customer.name,
      text: agreementNotice.text,
    })
    .from(agreementNotice)
    .innerJoin(agreement, eq(agreement.id, agreementNotice.agreementId))
    .innerJoin(customer, eq(customer.id, agreement.customerId))
    .where(and(eq(agreementNotice.personId, personId), isNull(agreementNotice.seenAt)))
    .orderBy(asc(agreementNotice.noticeBy), asc(agreementNotice.id))
    .limit(20);
}

const AHEAD_DAYS = 60;

/** Notice dates that come soon, and what the reader was told about agreements of theirs. */
export async function noticesFor(db: Db, personId: PersonId, today: LocalDate): Promise<Notices> {
  const [own, coming] = await Promise.all([
    noticesTo(db, personId),
    db
      .select({
        agreementId: agreement.id,
        number: agreement.number,
        name: agreement.name,
        customer: customer.name,
        noticeBy: agreement.noticeBy,
      })
      .from(agreement)
      .innerJoin(customer, eq(customer.id, agreement.customerId))
      .where(
        and(
          eq(agreement.stage, 'in force'),
          gte(agreement.noticeBy, today),
          lte(agreement.noticeBy, addDays(today, AHEAD_DAYS)),
        ),
      )
      .orderBy(asc(agreement.noticeBy), asc(agreement.id))
      .limit(10),
  ]);
  return { own, coming: coming.map((n) => ({ ...n, noticeBy: n.noticeBy as LocalDate })) };
}

/** Puts a notice away; only whom it was for can. */
export async function seeNotice(tx: Tx, id: NoticeId, who: Person, now: Instant): Promise<void> {
  const [seen] = await tx.db
    .update(agreementNotice)
    .set({ seenAt: now })
    .where(and(eq(agreementNotice.id, id), eq(agreementNotice.personId, who.id)));
  if (seen.affectedRows === 0) refuse('not-found', 'That notice is not yours.');
}
