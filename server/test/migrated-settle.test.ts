// What stood of documents and approvals before a migration of Settle: it says the same after it.
import { describe, expect, it } from 'vitest';
import { migrateDatabase } from '../src/platform/database.ts';
import { allocation, centreEntry, claim, claimLine, document, orderCharge } from '../src/tables.ts';
import { withOldMachine } from './old-machine.ts';

describe('documents and approvals from before payments and the journal', () => {
  it('are open as far as they were neither paid on site nor credited, and cost centres bear what they bore', async () => {
    const { database, old } = await withOldMachine(68);
    const documentOf = (kind: string, number: number, withTax: number, paid: number, of: number | null) =>
      old(
        `INSERT INTO document (kind, state, number, number_text, customer_id, currency, about, issued_on, due_on, without_tax,
           tax, with_tax, paid, customer_reference, language, of_id, made_at, issued_at)
         VALUES ('${kind}', 'issued', ${number}, 'D-${number}', 1, 'EUR', 'order 1', '2026-10-01', '2026-10-31', ${withTax}, 0,
           ${withTax}, ${paid}, '', 'en', ${of}, '2026-10-01 10:00:00.000', '2026-10-01 10:00:00.000')`,
      );
    await documentOf('invoice', 1, 1000, 100, null);
    await documentOf('credit note', 1, 300, 0, 1);
    await documentOf('credit note', 2, 500, 0, 1);
    await documentOf('credit note', 3, 150, 0, 1);
    await documentOf('invoice', 2, 70, 70, null);
    await documentOf('invoice', 3, 80, 0, null);
    await old(
      `INSERT INTO work_order (kind, stage, priority, title, customer_id, zone, started_at)
       VALUES ('repair', 'done', 2, 'Warm', 1, 'Europe/Lisbon', '2026-11-01 09:00:00.000')`,
    );
    await old(
      "INSERT INTO person (name, email, role, password_hash, zone, created_at) VALUES ('A', 'a@x', 'manager', '', 'UTC', '2026-01-01')",
    );
    await old("INSERT INTO order_line (order_id, asset_id, promises) VALUES (1, 1, '{}')");
    await old(
      `INSERT INTO order_approval (order_id, state, digest, currency, cost, list, borne, discount, goodwill, pay, person_id, at)
       VALUES (1, 'approved', '', 'EUR', 0, 0, 0, 0, 0, 0, 1, '2026-11-02 10:00:00.000')`,
    );
    const charge = (element: string, borne: number, bearer: string | null) =>
      old(
        `INSERT INTO order_charge (order_id, order_line_id, asset_id, element, text, quantity, unit, cost, list, borne, discount,
           goodwill, pay, bearer, derivation)
         VALUES (1, 1, 1, '${element}', '', 1000, 'C62', 0, ${borne}, ${borne}, 0, 0, 0, ${bearer && `'${bearer}'`}, '{}')`,
      );
    await charge('labour', 40, 'Warranty to 3 Mar 2027');
    await charge('parts', 2, 'Warranty to 3 Mar 2027');
    await charge('travel', 7, 'AG-1 Full care');
    await charge('other', 9, 'us: late twice');
    await charge('labour', 0, null);
    await old(
      `INSERT INTO order_look (order_id, customer_id, done_on, state, currency, cost, list, pay, odd, is_plain, \`like\`, digest)
       VALUES (1, 1, '2026-11-01', 'approved', 'EUR', 0, 0, 0, '[]', 1, '', '')`,
    );
    await migrateDatabase(database);
    const { db } = database;
    const documents = await db.select().from(document).orderBy(document.id);
    expect(documents.map((d) => [d.unpaid, d.openDue])).toEqual([
      [0, null],
      [0, null],
      [0, null],
      [-50, '2026-10-31'],
      [0, null],
      [80, '2026-10-31'],
    ]);
    const laid = await db.select().from(allocation).orderBy(allocation.id);
    expect(laid.map((l) => [l.kind, l.creditId, l.documentId, l.minor])).toEqual([
      ['credit note', 2, 1, 300],
      ['credit note', 3, 1, 500],
      ['credit note', 4, 1, 100],
    ]);
    const borne = await db.select({ bears: orderCharge.bears }).from(orderCharge).orderBy(orderCharge.id);
    expect(borne.map((b) => b.bears)).toEqual(['warranty', 'warranty', 'agreement', 'own', null]);
    const centres = await db.select().from(centreEntry).orderBy(centreEntry.bearer);
    expect(centres.map((c) => [c.bearer, c.centre, c.minor, c.on])).toEqual([
      ['warranty', 'Vessmark', 42, '2026-11-02'],
      ['own', 'us: late twice', 9, '2026-11-02'],
    ]);
    // What the warranty bore may still be claimed from the maker.
    const claims = await db.select().from(claim);
    expect(claims.map((c) => [c.state, c.maker, c.asked, c.accepted, c.doneOn])).toEqual([
      ['to send', 'Vessmark', 42, null, '2026-11-01'],
    ]);
    const asked = await db.select().from(claimLine).orderBy(claimLine.chargeId);
    expect(asked.map((l) => [l.chargeId, l.borne, l.asked, l.accepted])).toEqual([
      [1, 40, 40, null],
      [2, 2, 2, null],
    ]);
    await database.close();
  });
});
