// Reminders of what is overdue: level by level, one mail for each customer and currency, of exactly what was seen.
import { and, asc, eq, inArray, isNotNull, lte } from 'drizzle-orm';
import type { BodyOf } from '#api/contract.ts';
import type { ReminderPreview, sendReminders } from '#api/payments.ts';
import type { CustomerId, DocumentId } from '#core/ids.ts';
import { sayAmountOf } from '#core/money.ts';
import { levelDue } from '#core/settle/index.ts';
import { addDays, localDateAt, sayDate, type Instant, type LocalDate } from '#core/time/index.ts';
import { contact, customer } from '../customers/tables.ts';
import { tellOutside } from '../outbox/index.ts';
import type { Db, Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { contentOf } from '../platform/request-key.ts';
import type { Told, Write } from '../platform/writing.ts';
import { billingOf, levelsOf, settleSettings } from './billing-settings.ts';
import { document } from './document-tables.ts';
import { REMINDED } from './messages.ts';
import { customerNames } from './names.ts';
import { remindersOf } from './open-items.ts';
import { reminder } from './paid-tables.ts';

const AT_ONCE = 200;

type Due = {
  readonly customerId: CustomerId;
  readonly currency: string;
  /** The highest level of its documents. */
  readonly level: number;
  readonly unpaid: number;
  readonly documents: readonly {
    readonly id: DocumentId;
    readonly number: string;
    readonly dueOn: LocalDate;
    readonly unpaid: number;
    readonly level: number;
  }[];
};

/** Of what customers would be reminded on a day: of each document the level that is due. `ids` null: everybody. */
async function remindersDue(db: Db, ids: readonly CustomerId[] | null, today: LocalDate): Promise<Due[]> {
  const levels = levelsOf(await settleSettings(db));
  const [first] = levels;
  if (!first || ids?.length === 0) return [];
  const rows = await db
    .select()
    .from(document)
    .where(
      and(
        isNotNull(document.openDue),
        lte(document.openDue, addDays(today, -first.days)),
        eq(document.kind, 'invoice'),
        ids === null ? undefined : inArray(document.customerId, [...ids]),
      ),
    )
    .orderBy(asc(document.customerId), asc(document.openDue), asc(document.id));
  const sent = await remindersOf(
    db,
    rows.map((r) => r.id),
  );
  const due = new Map<string, Due>();
  for (const row of rows) {
    const { level: before = 0, on = null } = sent.get(row.id) ?? {};
    const dueOn = row.openDue as LocalDate;
    const level = levelDue({ dueOn, level: before, remindedOn: on }, levels, today);
    if (level === null) continue;
    const key = `${row.customerId} ${row.currency}`;
    const known = due.get(key);
    const own = { id: row.id, number: row.numberText ?? '', dueOn, unpaid: row.unpaid, level };
    due.set(key, {
      ...{ customerId: row.customerId, currency: row.currency },
      level: Math.max(level, known?.level ?? 0),
      unpaid: (known?.unpaid ?? 0) + row.unpaid,
      documents: [...(known?.documents ?? []), own],
    });
  }
  return [...due.values()];
}

const seenOf = (due: Due): string => contentOf({ ...due });

/** Who gets the documents of customers, and so their reminders. */
async function addressees(db: Db, ids: readonly CustomerId[]) {
  const billing = await billingOf(db, ids);
  const contactIds = ids.flatMap((id) => billing(id).contactId ?? []);
  const rows = contactIds.length === 0 ? [] : await db.select().from(contact).where(inArray(contact.id, contactIds));
  return (id: CustomerId) => rows.find((r) => r.id === billing(id).contactId && r.email) ?? null;
}

export async function previewRemindersOf(
  db: Db,
  ids: readonly CustomerId[] | null,
  today: LocalDate,
): Promise<ReminderPreview> {
  const all = await remindersDue(db, ids, today);
  const shown = all.slice(0, AT_ONCE);
  const customers = [...new Set(shown.map((d) => d.customerId))];
  const [names, to] = await Promise.all([customerNames(db, customers), addressees(db, customers)]);
  return {
    more: all.length - shown.length,
    items: shown.map((d) => ({
      customer: { id: d.customerId, name: names.get(d.customerId) ?? '' },
      ...{ to: to(d.customerId)?.name ?? '', level: d.level, currency: d.currency, unpaid: d.unpaid, seen: seenOf(d) },
      documents: [...d.documents],
    })),
  };
}

type Asked = BodyOf<typeof sendReminders>['customers'];

/** Reminds of what was seen; of whom something else is due by now is left, with why. */
export const remind = (write: Write, asked: Asked, who: Person, now: Instant) =>
  write(async (tx, told) => {
    const today = localDateAt(who.zone, now);
    const ids = [...new Set(asked.map((a) => a.id))].sort((a, b) => a - b);
    // Two who send at once: the second waits, and then finds nothing due.
    await tx.db
      .select({ id: customer.id })
      .from(customer)
      .where(inArray(customer.id, ids))
      .orderBy(asc(customer.id))
      .for('update');
    const due = await remindersDue(tx.db, ids, today);
    const [names, to] = await Promise.all([customerNames(tx.db, ids), addressees(tx.db, ids)]);
    const left: { customer: { id: number; name: string }; reason: string }[] = [];
    let sent = 0;
    for (const { id, currency, seen } of asked) {
      const own = due.find((d) => d.customerId === id && d.currency === currency);
      const name = names.get(id) ?? 'no such customer';
      if (!own || seenOf(own) !== seen) {
        const reason = own ? 'something else is due of them by now; look again' : 'nothing is due of them any more';
        left.push({ customer: { id, name }, reason });
        continue;
      }
      await remindOf(tx, told, own, { name, to: to(id), who, now, today });
      sent += 1;
    }
    return { sent, left };
  });

type To = Awaited<ReturnType<typeof addressees>> extends (id: CustomerId) => infer T ? T : never;

async function remindOf(
  tx: Tx,
  told: Told,
  due: Due,
  by: {
    readonly name: string;
    readonly to: To;
    readonly who: Person;
    readonly now: Instant;
    readonly today: LocalDate;
  },
): Promise<void> {
  const { name, to, who, now, today } = by;
  await tx.db.insert(reminder).values(
    due.documents.map((d) => ({
      ...{ documentId: d.id, level: d.level, unpaid: d.unpaid, on: today, sentTo: to?.email ?? '' },
      ...{ personId: who.id, at: now },
    })),
  );
  const money = (minor: number) => `${due.currency} ${sayAmountOf(minor, due.currency)}`;
  if (to?.email)
    await tellOutside(
      tx,
      REMINDED,
      {
        ...{ name: to.name, personId: null, mail: to.email, phone: null, prefers: 'mail' },
        ...{ language: to.language, hasBrowser: false },
      },
      {
        key: `reminder ${seenOf(due)}`,
        values: {
          ...{ name: to.name, customer: name, level: String(due.level), amount: money(due.unpaid) },
          documents: due.documents.map((d) => `${d.number}, ${sayDate(d.dueOn)}: ${money(d.unpaid)}`).join('\n'),
        },
        about: { subject: 'document', id: due.documents[0]?.id ?? 0 },
        now,
      },
    );
  told({ subject: 'customer', id: due.customerId, text: `reminded of ${money(due.unpaid)}, level ${due.level}` });
}
