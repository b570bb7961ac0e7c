// The year of upkeep and calendar feeds over the routes; what a calendar reads is read again by a parser that is not ours.
import { randomUUID } from 'node:crypto';
import nodeIcal from 'node-ical';
import ICAL from 'ical.js';
import { Temporal } from 'temporal-polyfill';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { eq } from 'drizzle-orm';
import type { OrderPage } from '#api/orders.ts';
import type { FeedOut, YearPlan } from '#api/year.ts';
import { asId, type AssetId, type PersonId } from '#core/ids.ts';
import { asInstant, asLocalDate, asZone } from '#core/time/index.ts';
import { calendarFeed, customer, person, schedule } from '../src/tables.ts';
import { calendarOf } from '../src/upkeep/year/calendar.ts';
import type { YearVisitRow } from '../src/upkeep/year/visits.ts';
import { kept } from './every-row.ts';
import { buildWorld, forgetPlan, openHouse, type Caller, type TestHouse, type World } from './house.ts';
import { raiseAll } from './raise-all.ts';

let house: TestHouse;
let call: Caller;
let world: World;
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  world = await buildWorld(call, { assets: 2, rule: 'FREQ=MONTHLY;BYDAY=1TU', anchor: '2026-10-01' });
  const { db } = house.database;
  await db
    .update(customer)
    .set({ name: 'Alvorim; “Hospitals”, Lda\\Norte' })
    .where(eq(customer.id, asId(world.customerId)));
  await db
    .update(schedule)
    .set({ timeOfDay: 450, visitPrice: 12_050 })
    .where(eq(schedule.assetId, asId<AssetId>(world.assetIds[0] ?? 0)));
  await forgetPlan(house.database);
  await raiseAll(house.database, asLocalDate('2026-11-24'), asInstant('2026-11-24T09:20:00Z'));
});
afterAll(() => house.close());

const year = (query: string) => call<YearPlan>('GET', `/api/upkeep/year?${query}`);
const addFeed = (kind: string, of: number) =>
  call<{ id: number; path: string }>('POST', '/api/feeds', { requestKey: randomUUID(), kind, of });
const feeds = async () => (await call<{ items: FeedOut[] }>('GET', '/api/feeds')).body.items;
/** As a calendar does: nobody signed in. */
const read = async (path: string) => house.app.inject({ method: 'GET', url: path });

describe('the year', () => {
  it('has a row for each machine and job plan with its visits, past and to come', async () => {
    const { body } = await year(`year=2027&customer=${world.customerId}`);
    expect(body).toMatchObject({ year: 2027, title: 'Alvorim; “Hospitals”, Lda\\Norte', visits: 6 });
    expect(body.rows.map((r) => [r.assetId, r.visits.length])).toEqual(world.assetIds.map((id) => [id, 3]));
    const { body: now } = await year(`year=2026&agreement=${world.agreementId}`);
    expect(now.rows[0]?.visits.map((v) => v.state)).toEqual(['not done', 'not done', 'raised']);
    expect(now.rows[0]?.visits.every((v) => v.orderId !== null)).toBe(true);
  });

  it('says what visits with a price of their own come to; one that was raised keeps the price it was raised with', async () => {
    const { db } = house.database;
    const [first] = world.assetIds;
    const ofFirst = eq(schedule.assetId, asId<AssetId>(first ?? 0));
    expect((await year(`year=2027&customer=${world.customerId}`)).body.prices).toEqual([
      { currency: 'EUR', minor: 3 * 12_050 },
    ]);
    const before = (await year(`year=2026&agreement=${world.agreementId}`)).body;
    await db.update(schedule).set({ visitPrice: 99_000 }).where(ofFirst);
    const after = (await year(`year=2026&agreement=${world.agreementId}`)).body;
    const raised = after.rows.find((r) => r.assetId === first)?.visits ?? [];
    expect(raised.filter((v) => v.orderId === null)).toEqual([]);
    expect([before.prices, after.prices]).toEqual(
      [1, 2].map(() => [{ currency: 'EUR', minor: raised.length * 12_050 }]),
    );
    const order = await call<OrderPage>('GET', `/api/orders/${raised[0]?.orderId}`);
    expect(order.body.lines[0]?.visit?.price).toEqual({ minor: 12_050, currency: 'EUR' });
    await db.update(schedule).set({ visitPrice: null }).where(ofFirst);
    expect((await year(`year=2027&customer=${world.customerId}`)).body.prices).toEqual([]);
  });

  it('is asked for somebody, and printed', async () => {
    expect((await year('year=2027')).body).toMatchObject({ code: 'missing', errors: [{ field: 'customer' }] });
    expect((await year('year=2027&customer=987654')).body).toMatchObject({ code: 'not-found' });
    expect((await year(`year=27&customer=${world.customerId}`)).status).toBe(422);
    const drawn = await call<{ text: string }>('GET', `/api/upkeep/year.pdf?year=2027&customer=${world.customerId}`);
    expect([drawn.status, drawn.body.text.slice(0, 5)]).toEqual([200, '%PDF-']);
  });
});

describe('a feed', () => {
  it('is read at its address by nobody signed in, as the visits of the customer', async () => {
    const { body } = await addFeed('customer', world.customerId);
    expect(body.path).toMatch(/^\/api\/calendar\/[\w-]{20,}\.ics$/);
    const answer = await read(body.path);
    expect([answer.statusCode, answer.headers['content-type']]).toEqual([200, 'text/calendar; charset=utf-8']);
    const events = Object.values(nodeIcal.sync.parseICS(answer.body)).filter((c) => c?.type === 'VEVENT');
    const { body: plan } = await year(`year=2027&customer=${world.customerId}`);
    // Three months back and thirteen ahead: October to March, for two machines.
    expect(events).toHaveLength(12);
    expect(new Set(events.map((e) => e.uid)).size).toBe(12);
    const days = (of: number) =>
      plan.rows.flatMap((r) => r.visits.map((v) => v.planned)).filter((_, i) => i < of).length;
    expect(days(6)).toBe(6);
    const january = events.filter((e) => e.uid.includes('-2027-01-05-'));
    expect(january).toHaveLength(2);
    // One on the whole day, one at 07:30 in Lisbon, which is UTC in winter.
    expect(january.map((e) => [e.datetype, e.start.toISOString().slice(11, 16)]).sort()).toEqual([
      ['date', expect.any(String) as string],
      ['date-time', '07:30'],
    ]);
    expect(answer.body).toContain('Alvorim\\; “Hospitals”\\, Lda\\\\Norte');
    expect((await feeds())[0]).toMatchObject({ kind: 'customer', works: true, readAt: house.now });
  });

  it('is written as RFC 5545 asks: lines of at most 75 octets, ended by CR LF, the zone with its changes of clocks', async () => {
    const { body: made } = await addFeed('customer', world.customerId);
    const { body } = await read(made.path);
    const lines = body.split('\r\n');
    expect(lines.pop()).toBe('');
    expect(lines.every((line) => Buffer.byteLength(line) <= 75 && !line.includes('\n'))).toBe(true);
    expect([lines[0], lines[lines.length - 1]]).toEqual(['BEGIN:VCALENDAR', 'END:VCALENDAR']);
    expect(body).toContain('BEGIN:VTIMEZONE\r\nTZID:Europe/Lisbon');
    expect(body).toContain('DTSTART;TZID=Europe/Lisbon:20270105T073000');
  });

  it('that is revoked is found no more, nor one that never was; neither tells which', async () => {
    const { body } = await addFeed('place', 1);
    expect((await read(body.path)).statusCode).toBe(200);
    expect((await call('DELETE', `/api/feeds/${body.id}`)).status).toBe(200);
    const [gone, never] = [await read(body.path), await read('/api/calendar/never.ics')];
    expect([gone.statusCode, never.statusCode]).toEqual([404, 404]);
    const plain = (text: string) => text.replace(/"(?:instance|request)":"[^"]*"/g, '');
    expect(plain(gone.body)).toBe(plain(never.body));
    const [row] = await house.database.db
      .select()
      .from(calendarFeed)
      .where(eq(calendarFeed.id, asId(body.id)));
    expect(body.path).not.toContain(row?.secretHash ?? '-');
  });

  it('of a technician has the visits that are theirs by schedule', async () => {
    const { db } = house.database;
    const [technician] = await db.select().from(person).where(eq(person.role, 'technician'));
    const id = technician?.id as PersonId;
    const { body } = await addFeed('technician', id);
    expect(nodeIcal.sync.parseICS((await read(body.path)).body)).not.toHaveProperty('VEVENT');
    await db
      .update(schedule)
      .set({ technicianId: id })
      .where(eq(schedule.assetId, asId<AssetId>(world.assetIds[1] ?? 0)));
    const events = Object.values(nodeIcal.sync.parseICS((await read(body.path)).body)).filter(
      (c) => c?.type === 'VEVENT',
    );
    expect(events).toHaveLength(3);
  });

  it('of nobody is refused, and by whom it is not for; nothing is kept then', async () => {
    const before = await kept(house);
    for (const kind of ['customer', 'place', 'technician'])
      expect((await addFeed(kind, 987_654)).body).toMatchObject({ code: 'not-found', errors: [{ field: 'of' }] });
    expect((await call('DELETE', '/api/feeds/987654')).body).toMatchObject({ code: 'not-found' });
    const technician = await house.as('technician');
    expect((await technician('POST', '/api/feeds', { requestKey: 'x-1', kind: 'place', of: 1 })).status).toBe(403);
    expect((await technician('GET', '/api/feeds')).status).toBe(403);
    expect(await kept(house)).toEqual(before);
  });
});

describe('the zones of a calendar', () => {
  const visit = (over: Partial<YearVisitRow>): YearVisitRow =>
    ({
      ...{ scheduleId: 1, nominal: '2026-10-25', part: 1, planned: '2026-10-25', windowFrom: '2026-10-20' },
      ...{ windowTo: '2026-10-30', minutes: 90, crew: 1, timeOfDay: 600, assetId: 1, tag: 'Q1', model: 'M' },
      ...{ agreementId: 1, agreement: 'AG-1', jobPlan: 'Care', orderId: null, state: 'to come' },
      ...{ place: { label: 'There', address: null }, zone: 'Europe/Lisbon' },
      ...over,
    }) as never;

  // Temporal’s own arithmetic of the IANA database; the zone’s text is worked out by ical.js from the observances alone.
  it.each([
    'Europe/Lisbon',
    'Europe/Madrid',
    'America/New_York',
    'Asia/Kolkata',
    'Australia/Lord_Howe',
    'America/Sao_Paulo',
  ])('%s: every third hour of two years has the offset that the database says', (name) => {
    const text = calendarOf('x', [visit({ zone: asZone(name) })], asInstant('2026-11-24T09:00:00Z'));
    const component = new ICAL.Component(ICAL.parse(text) as unknown[]).getFirstSubcomponent('vtimezone');
    const zone = new ICAL.Timezone({ component: component as ICAL.Component, tzid: name });
    for (let at = Date.UTC(2026, 0, 2); at < Date.UTC(2028, 0, 1); at += 3 * 3_600_000 + 1_260_000) {
      const wall = Temporal.Instant.fromEpochMilliseconds(at).toZonedDateTimeISO(name);
      const { year: y, month, day, hour, minute } = wall;
      const said = new ICAL.Time({ year: y, month, day, hour, minute, second: 0 }, zone);
      // A repeated local time is either.
      const both = ['earlier', 'later'].map(
        (disambiguation) =>
          wall.toPlainDateTime().toZonedDateTime(name, { disambiguation: disambiguation as 'earlier' })
            .offsetNanoseconds / 1e9,
      );
      expect(both).toContain(zone.utcOffset(said));
    }
  });

  it('a wanted time that a change of clocks skips is moved forward by the gap', () => {
    const gap = visit({ planned: asLocalDate('2027-03-28'), timeOfDay: 90 });
    const text = calendarOf('x', [gap], asInstant('2026-11-24T09:00:00Z'));
    expect(text).toContain('DTSTART;TZID=Europe/Lisbon:20270328T023000');
    expect(text).toContain('DTEND;TZID=Europe/Lisbon:20270328T040000');
  });
});
