// What stood in the database before a migration: it says the same after it.
import { describe, expect, it } from 'vitest';
import { asInstant } from '#core/time/index.ts';
import { migrateDatabase } from '../src/platform/database.ts';
import { ordersDerived } from '../src/orders/derived.ts';
import { rebuild } from '../src/platform/derived.ts';
import { deriveAgain } from '../src/orders/derive-again.ts';
import {
  allowanceDraw,
  attachment,
  contact,
  outbox,
  orderLine,
  orderTask,
  agreement,
  agreementNumbering,
  agreementSuspension,
  clock,
  coverageLine,
  schedule,
  visit,
  workOrder,
} from '../src/tables.ts';
import { freshDatabase, migrationsUpTo } from './house.ts';
import { withOldMachine } from './old-machine.ts';

describe('an agreement from before its terms had depth', () => {
  it('keeps its lines; it is renegotiated, covers no consumables, and its notice can be given until its last day', async () => {
    const { database } = await freshDatabase();
    await migrateDatabase(database, await migrationsUpTo(2));
    const old = async (sql: string) => void (await database.pool.query(sql));
    await old("INSERT INTO customer (name) VALUES ('Old customer')");
    await old("INSERT INTO asset_class (name) VALUES ('Incubator')");
    await old(
      "INSERT INTO agreement (customer_id, name, stage, term_from, term_to, notice_days, reminder) VALUES (1, 'Old care', 'in force', '2026-01-01', '2026-12-31', 0, '')",
    );
    await old(
      `INSERT INTO coverage_line (agreement_id, asset_class_id, term_from, labour, parts, travel, kinds, excluded_causes)
       VALUES (1, 1, '2026-01-01', 100, 50, 0, '["repair"]', '[]')`,
    );
    await migrateDatabase(database);
    expect(await database.db.select().from(agreement)).toMatchObject([
      {
        number: 'AG-2001',
        renewalMode: 'to be renegotiated',
        noticeBy: '2026-12-31',
        currency: 'EUR',
        priceMinor: null,
      },
    ]);
    expect(await database.db.select().from(agreementNumbering)).toMatchObject([{ pattern: 'AG-{number}', next: 2002 }]);
    expect(await database.db.select().from(coverageLine)).toMatchObject([
      { parts: 50, consumables: 0, discounts: null, hours: null, ownFleet: false, rootId: null },
    ]);
    await database.close();
  });
});

describe('clocks from before lateness left out pauses', () => {
  it('are derived again from their orders’ events, once', async () => {
    const { database } = await freshDatabase();
    await migrateDatabase(database, await migrationsUpTo(8));
    const old = async (sql: string, values: unknown[] = []) => void (await database.pool.query(sql, values));
    await old("INSERT INTO customer (name) VALUES ('Old customer')");
    await old("INSERT INTO asset_class (name) VALUES ('Incubator')");
    await old(
      `INSERT INTO asset (customer_id, class_id, maker, model, serial, tag, serial_plain, owner, state)
       VALUES (1, 1, 'Vessmark', 'INC-240', 'S1', 'T1', 's1', 'customer', 'in service')`,
    );
    await old(
      `INSERT INTO work_order (kind, stage, priority, title, customer_id, zone, started_at)
       VALUES ('repair', 'on site', 1, 'Warm', 1, 'Europe/Lisbon', '2026-11-24 08:00:00')`,
    );
    const promise = { promise: { minutes: 60, measure: 'elapsed' }, serviceLevelId: 1, pauses: ['no access'] };
    await old("INSERT INTO order_line (order_id, asset_id, verdict, promises) VALUES (1, 1, 'null', ?)", [
      JSON.stringify({ restoration: promise }),
    ]);
    for (const [at, act] of [
      ['2026-11-24 09:30:00', { kind: 'paused', reason: 'no access', text: '' }],
      ['2026-11-24 10:30:00', { kind: 'resumed' }],
      ['2026-11-24 11:00:00', { kind: 'arrived' }],
      ['2026-11-24 11:15:00', { kind: 'restored' }],
    ] as const)
      await old('INSERT INTO order_event (order_id, at, recorded_at, act) VALUES (1, ?, ?, ?)', [
        at,
        at,
        JSON.stringify(act),
      ]);
    await old(
      `INSERT INTO clock (order_line_id, order_id, asset_id, customer_id, zone, target, state, promised_minutes, started_at, due_at, stopped_at)
       VALUES (1, 1, 1, 1, 'Europe/Lisbon', 'restoration', 'missed', 60, '2026-11-24 08:00:00', '2026-11-24 09:00:00', '2026-11-24 11:15:00')`,
    );
    await migrateDatabase(database);
    const now = asInstant('2026-11-25T08:00:00Z');
    expect(await deriveAgain(database, now)).toBe(1);
    // Due 09:00, restored 11:15: 135 minutes late, less the hour of the pause.
    expect(await database.db.select().from(clock)).toMatchObject([
      { state: 'missed', lateMs: 75 * 60_000, lateFrom: null },
    ]);
    expect(await deriveAgain(database, now)).toBe(0);
    await database.close();
  });
});

describe('a schedule from before cadences', () => {
  it('keeps its rule, and its visits the day and the plan they had', async () => {
    const { database, old } = await withOldMachine(19);
    await old(
      "INSERT INTO agreement (number, customer_id, name, stage, term_from, notice_days, reminder) VALUES ('AG-1', 1, 'Old', 'in force', '2026-01-01', 0, '')",
    );
    await old(`INSERT INTO job_plan (name, minutes, tasks) VALUES ('Care', 60, '[]'), ('Other', 60, '[]')`);
    await old(
      `INSERT INTO schedule (agreement_id, asset_id, job_plan_id, rule, anchor, convention, early_days, late_days, lead_days, lead_unit)
       VALUES (1, 1, 2, 'FREQ=MONTHLY;BYMONTHDAY=25', '2026-01-01', 'following', 5, 7, 21, 'calendar days')`,
    );
    await old(
      `INSERT INTO visit (schedule_id, nominal, part, asset_id, agreement_id, due, window_from, window_to, state)
       VALUES (1, '2026-01-25', 1, 1, 1, '2026-01-26', '2026-01-21', '2026-02-02', 'raised')`,
    );
    await migrateDatabase(database);
    expect(await database.db.select().from(schedule)).toMatchObject([
      {
        cadence: { kind: 'rule', rule: 'FREQ=MONTHLY;BYMONTHDAY=25' },
        ...{ anchor: '2026-01-01', turns: [], crew: 1, hours: null, absorbDays: null },
      },
    ]);
    expect(await database.db.select().from(visit)).toMatchObject([
      { due: '2026-01-26', planned: '2026-01-26', jobPlanId: 2, absorbedBy: null },
    ]);
    await database.close();
  });
});

describe('an order from before it could have several machines', () => {
  it('keeps its visit, its minutes, its tasks and what it drew at its only line', async () => {
    const { database, old } = await withOldMachine(29);
    await old(
      "INSERT INTO agreement (number, customer_id, name, stage, term_from, notice_days, reminder) VALUES ('AG-1', 1, 'Old', 'in force', '2026-01-01', 0, '')",
    );
    await old(
      "INSERT INTO allowance (agreement_id, unit, amount, period, carries_over) VALUES (1, 'visits', 3, 'term', false)",
    );
    for (const id of [1, 2])
      await old(
        `INSERT INTO work_order (id, kind, stage, priority, title, customer_id, visit_id, zone, started_at, minutes)
         VALUES (${id}, 'preventive', 'raised', 4, 'Care', 1, ${id + 50}, 'Europe/Lisbon', '2026-11-01 09:00:00.000', ${id * 30})`,
      );
    // Written the other way round: a line is not told by its order's number.
    for (const id of [2, 1]) {
      await old(`INSERT INTO order_line (order_id, asset_id, verdict, promises) VALUES (${id}, 1, 'null', '{}')`);
      await old(`INSERT INTO order_task (order_id, position, text, mandatory) VALUES (${id}, 0, 'Task ${id}', 1)`);
      await old(
        `INSERT INTO allowance_draw (allowance_id, order_id, drawn_on, amount, at) VALUES (1, ${id}, '2026-11-0${id}', 1, '2026-11-01 09:00:00.000')`,
      );
    }
    await migrateDatabase(database);
    const { db } = database;
    const lines = await db.select().from(orderLine).orderBy(orderLine.orderId);
    expect(lines.map((l) => [l.orderId, l.visitId, l.minutes])).toEqual([
      [1, 51, 30],
      [2, 52, 60],
    ]);
    const lineOf = new Map(lines.map((l) => [l.orderId, l.id]));
    for (const row of [...(await db.select().from(orderTask)), ...(await db.select().from(allowanceDraw))])
      expect(row.orderLineId).toBe(lineOf.get(row.orderId));
    await database.close();
  });
});

describe('an order from before technicians were persons', () => {
  it('is that of the one who bears the name; a name of two, or of nobody, stays a name', async () => {
    const { database, old } = await withOldMachine(31);
    const names = ['Renata Valdês', 'João Twice', 'João Twice', 'Desk Only'];
    for (const [i, name] of names.entries())
      await old(
        `INSERT INTO person (email, name, role, zone, password_hash, created_at)
         VALUES ('p${i}@example.org', '${name}', '${name === 'Desk Only' ? 'dispatcher' : 'technician'}', 'Europe/Lisbon', '', '2026-01-01 00:00:00.000')`,
      );
    const told = ['Renata Valdês', 'João Twice', 'Desk Only', 'A stranger', null];
    for (const [i, name] of told.entries()) {
      const id = i + 1;
      await old(
        `INSERT INTO work_order (id, kind, stage, priority, title, customer_id, zone, started_at, technician)
         VALUES (${id}, 'repair', 'raised', 2, 'Warm', 1, 'Europe/Lisbon', '2026-11-01 09:00:00.000', ${name ? `'${name}'` : 'NULL'})`,
      );
      await old(`INSERT INTO order_line (order_id, asset_id, verdict, promises) VALUES (${id}, 1, 'null', '{}')`);
      const act = name ? `{"kind":"told","technician":"${name}"}` : '{"kind":"note","text":"technician is late"}';
      await old(
        `INSERT INTO order_event (order_id, at, recorded_at, act) VALUES (${id}, '2026-11-01 09:10:00.000', '2026-11-01 09:10:00.000', '${act}')`,
      );
    }
    await migrateDatabase(database);
    const { db } = database;
    const orders = await db.select().from(workOrder).orderBy(workOrder.id);
    expect(orders.map((o) => [o.technicianId, o.technician])).toEqual(
      told.map((name, i) => [i === 0 ? 1 : null, name]),
    );
    // What the events say is what stands.
    const at = asInstant('2026-11-02T09:00:00Z');
    const [compared] = await rebuild(database, [ordersDerived], at, false);
    expect(compared).toMatchObject({ seen: told.length, differing: [] });
    await database.close();
  });
});

describe('an order from before lists asked for depots and what is due', () => {
  it('gets the depot of its place, what it waits for and its next day; its events say the same', async () => {
    const { database, old } = await withOldMachine(38);
    await old("INSERT INTO depot (name) VALUES ('Ribeira'), ('Miralba')");
    for (const [id, parent, path, name, depot] of [
      [1, 'NULL', '/1/', 'Site', 1],
      [2, 1, '/1/2/', 'Floor', 'NULL'],
      [3, 2, '/1/2/3/', 'Annexe', 2],
    ])
      await old(
        `INSERT INTO location (id, parent_id, path, name, full_name, depot_id) VALUES (${id}, ${parent}, '${path}', '${name}', '${name}', ${depot})`,
      );
    await old('UPDATE asset SET location_id = 2');
    await old(
      `INSERT INTO asset (customer_id, class_id, maker, model, serial, tag, serial_plain, owner, state, location_id)
       VALUES (1, 1, 'Vessmark', 'INC-240', 'S2', 'T2', 's2', 'customer', 'in service', 3)`,
    );
    const order = (id: number, stage: string, paused: string) =>
      old(
        `INSERT INTO work_order (id, kind, stage, priority, title, customer_id, zone, started_at, paused_since)
         VALUES (${id}, 'repair', '${stage}', 2, 'Warm', 1, 'Europe/Lisbon', '2026-11-01 09:00:00.000', ${paused})`,
      );
    await order(1, 'raised', "'2026-11-01 09:10:00.000'");
    await order(2, 'raised', 'NULL');
    const promise = { promise: { minutes: 60 * 24 * 30, measure: 'elapsed' }, serviceLevelId: 1, pauses: [] };
    for (const id of [1, 2])
      await old(
        `INSERT INTO order_line (order_id, asset_id, verdict, promises) VALUES (${id}, ${id}, 'null', '${JSON.stringify({ restoration: promise })}')`,
      );
    const act = JSON.stringify({ kind: 'paused', reason: 'waiting for parts', text: '' });
    await old(
      `INSERT INTO order_event (order_id, at, recorded_at, act) VALUES (1, '2026-11-01 09:10:00.000', '2026-11-01 09:10:00.000', '${act}')`,
    );
    for (const id of [1, 2])
      await old(
        `INSERT INTO clock (order_line_id, order_id, asset_id, customer_id, zone, target, state, promised_minutes, started_at, due_at, derivation)
         VALUES (${id}, ${id}, ${id}, 1, 'Europe/Lisbon', 'restoration', 'running', 43200, '2026-11-01 09:00:00', '2026-12-01 09:00:00', 3)`,
      );
    await migrateDatabase(database);
    const now = asInstant('2026-11-02T09:00:00Z');
    expect(await deriveAgain(database, now)).toBe(2);
    const orders = await database.db.select().from(workOrder).orderBy(workOrder.id);
    expect(orders.map((o) => [o.depotId, o.waitingFor, o.nextDue])).toEqual([
      [1, 'waiting for parts', '2026-12-01'],
      [2, null, '2026-12-01'],
    ]);
    const [compared] = await rebuild(database, [ordersDerived], now, false);
    expect(compared).toMatchObject({ seen: 2, differing: [] });
    await database.close();
  });
});

describe('a contact and files from before mail came in', () => {
  it('are written to in English and hang where they hung; what left before answers nothing', async () => {
    const { database, old } = await withOldMachine(44);
    await old(
      "INSERT INTO contact (customer_id, name, email, preferred) VALUES (1, 'Rosa', 'rosa@x.example', 'phone')",
    );
    await old("INSERT INTO file_content (sha256, bytes, media_type) VALUES ('ab', 3, 'image/png')");
    await old(
      "INSERT INTO attachment (subject, subject_id, name, sha256, at) VALUES ('asset', 1, 'door.png', 'ab', '2026-11-01 09:00:00')",
    );
    await old(
      `INSERT INTO outbox (out_key, kind, way, address, to_name, subject, body, about_subject, about_id, state, created_at)
       VALUES ('k', 'order taken', 'mail', 'a@x.example', 'Rosa', 's', 'b', 'order', 1, 'sent', '2026-11-01 09:00:00')`,
    );
    await migrateDatabase(database);
    expect(await database.db.select().from(contact)).toMatchObject([
      { name: 'Rosa', language: 'en', preferred: 'phone' },
    ]);
    expect(await database.db.select().from(attachment)).toMatchObject([{ subject: 'asset', name: 'door.png' }]);
    expect(await database.db.select().from(outbox)).toMatchObject([
      { inReplyTo: null, threadIds: [], paperSha256: null },
    ]);
    await database.close();
  });
});

describe('a job plan kept by an order from before it could need several skills', () => {
  it('needs the skill it needed, or none, and asks no forms of its own', async () => {
    const { database, old } = await withOldMachine(49);
    await old(
      `INSERT INTO work_order (kind, stage, priority, title, customer_id, zone, started_at)
       VALUES ('repair', 'raised', 2, 'Warm', 1, 'Europe/Lisbon', '2026-11-01 09:00:00.000')`,
    );
    const kept = { name: 'Yearly', version: 1, minutes: 60, crew: 1, safety: '', parts: [] };
    const line = (plan: object | null) =>
      old(
        `INSERT INTO order_line (order_id, asset_id, verdict, promises, plan) VALUES (1, 1, 'null', '{}', ${plan ? `'${JSON.stringify(plan)}'` : 'NULL'})`,
      );
    await line({ ...kept, skill: 'Gas “A”' });
    await line({ ...kept, skill: null });
    await line(null);
    await migrateDatabase(database);
    const lines = await database.db.select({ plan: orderLine.plan }).from(orderLine).orderBy(orderLine.id);
    expect(lines.map((l) => l.plan)).toEqual([
      { ...kept, skills: ['Gas “A”'], formIds: [] },
      { ...kept, skills: [], formIds: [] },
      null,
    ]);
    await database.close();
  });
});

describe('an order from before it kept its rate card', () => {
  it('goes on by the card that held for its customer: the agreed one, the standard one, or none where there was none', async () => {
    const { database, old } = await withOldMachine(54);
    const raised = (customer: number) =>
      old(
        `INSERT INTO work_order (kind, stage, priority, title, customer_id, zone, started_at)
         VALUES ('repair', 'done', 2, 'Warm', ${customer}, 'Europe/Lisbon', '2026-11-01 09:00:00.000')`,
      );
    await old("INSERT INTO customer (name, rate_card_id) VALUES ('Agreed customer', 2)");
    await old(
      `INSERT INTO rate_card (id, name, currency, is_standard, card) VALUES (1, 'Standard', 'EUR', 1, '{}'), (2, 'Agreed', 'EUR', NULL, '{}')`,
    );
    for (const customer of [1, 2]) await raised(customer);
    await migrateDatabase(database);
    const orders = await database.db.select({ cardId: workOrder.rateCardId }).from(workOrder).orderBy(workOrder.id);
    expect(orders.map((o) => o.cardId)).toEqual([1, 2]);
    await database.close();
    const { database: bare, old: oldBare } = await withOldMachine(54);
    await oldBare(
      `INSERT INTO work_order (kind, stage, priority, title, customer_id, zone, started_at)
       VALUES ('repair', 'done', 2, 'Warm', 1, 'Europe/Lisbon', '2026-11-01 09:00:00.000')`,
    );
    await migrateDatabase(bare);
    expect(await bare.db.select({ cardId: workOrder.rateCardId }).from(workOrder)).toEqual([{ cardId: null }]);
    await bare.close();
  });
});

describe('agreements that were suspended or ended before it was kept by the day', () => {
  it('rest and end on the days that their events tell', async () => {
    const { database, old } = await withOldMachine(67);
    const agreementOf = (number: string, stage: string) =>
      old(
        `INSERT INTO agreement (customer_id, number, name, stage, term_from, reminder) VALUES (1, '${number}', 'Care', '${stage}', '2026-01-01', '')`,
      );
    const told = (id: number, day: string, text: string) =>
      old(`INSERT INTO agreement_event (agreement_id, at, text) VALUES (${id}, '2026-${day} 10:00:00.000', '${text}')`);
    await agreementOf('A', 'suspended');
    await agreementOf('B', 'ended');
    await agreementOf('C', 'in force');
    await told(1, '03-01', 'in force → suspended: they asked');
    await told(1, '03-11', 'suspended → in force: it goes on');
    await told(1, '06-01', 'in force → suspended: again');
    await told(2, '04-01', 'in force → suspended: sold');
    await told(2, '05-05', 'suspended → ended: sold');
    await migrateDatabase(database);
    const rests = await database.db.select().from(agreementSuspension).orderBy(agreementSuspension.id);
    expect(rests.map((r) => [r.agreementId, r.fromDay, r.resumedOn])).toEqual([
      [1, '2026-03-01', '2026-03-11'],
      [1, '2026-06-01', null],
      [2, '2026-04-01', '2026-05-05'],
    ]);
    const ends = await database.db.select({ on: agreement.endedOn }).from(agreement).orderBy(agreement.id);
    expect(ends.map((e) => e.on)).toEqual([null, '2026-05-05', null]);
    await database.close();
  });
});
