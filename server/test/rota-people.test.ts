// People of the rota over the routes: absences asked for and agreed to, somebody sick replaced, a day sent, crews and certificates.
import { randomUUID } from 'node:crypto';
import nodeIcal from 'node-ical';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Told } from '#api/orders.ts';
import type { CandidatesOut, Replaced } from '#api/rota.ts';
import { outbox } from '../src/tables.ts';
import { refusedAt } from './calling.ts';
import { must } from './house.ts';
import {
  bookingOf,
  day,
  openRota,
  repairOf,
  rotaCalls,
  rotaOf,
  saysOf,
  technicianBody,
  type RotaHouse,
} from './rota-house.ts';

let here: RotaHouse;
beforeAll(async () => {
  here = await openRota();
});
afterAll(() => here?.house.close());

const { page, book, refused, nextMachine, needGas } = rotaCalls(() => here);

describe('absences', () => {
  const ask = (call = here.desk, over: object = {}) =>
    call<{ id: number; state: string }>('POST', '/api/rota/absences', {
      ...{ requestKey: randomUUID(), personId: here.people.technician, kind: 'leave', text: '' },
      ...{ from: '2026-12-10T00:00:00Z', to: '2026-12-12T00:00:00Z', ...over },
    });

  it('say why to the office and to whose they are, to colleagues only that somebody is away; so it is with where they live', async () => {
    const { rui, technician: me } = here.people;
    for (const personId of [rui, me])
      must(await ask(here.desk, { personId, kind: 'sick', from: '2027-01-11T00:00:00Z', to: '2027-01-12T00:00:00Z' }));
    must(
      await here.desk(
        'PUT',
        `/api/rota/people/${rui}`,
        technicianBody({
          ...{ version: 1, depotId: here.depots[1], startsFrom: 'home', latitude: 41.7, longitude: -8.4 },
          skills: [{ skillId: here.gas, until: null }],
        }),
      ),
    );
    const said = async (call = here.desk) => {
      const { people } = await rotaOf(call, '2027-01-11', 1);
      return [rui, me].map((id) => {
        const p = people.find((x) => x.id === id);
        return [p?.days[0]?.absences[0]?.why, p?.start.at === null];
      });
    };
    expect(await said()).toEqual([
      ['sick', false],
      ['sick', false],
    ]);
    expect(await said(await here.house.as('technician'))).toEqual([
      ['away', true],
      ['sick', false],
    ]);
  });

  it('are asked for, agreed to by the office, and keep somebody from being planned', async () => {
    const technician = await here.house.as('technician');
    const { id, state } = must(await ask(technician));
    expect(state).toBe('asked');
    const order = await repairOf(here, nextMachine());
    const { technician: me } = here.people;
    // Asked for it keeps nobody; agreed to it does.
    const booked = must(await book([order], [me], day('2026-12-10', '10:00')));
    must(await here.desk('POST', `/api/rota/appointments/${booked.id}/out`, { version: 1, text: '' }));
    expect(
      (await technician('POST', `/api/rota/absences/${id}/decision`, { version: 1, agreed: true, text: '' })).status,
    ).toBe(403);
    must(await here.desk('POST', `/api/rota/absences/${id}/decision`, { version: 1, agreed: true, text: '' }));
    expect(saysOf(await refused(() => book([order], [me], day('2026-12-10', '10:00'))))[0]).toContain('on leave');
    expect((await technician('POST', `/api/rota/absences/${id}/removal`, { version: 2 })).status).toBe(403);
    must(await here.desk('POST', `/api/rota/absences/${id}/removal`, { version: 2 }));
    must(await book([order], [me], day('2026-12-10', '10:00')));
  });

  it('do not overlap, end after they begin, and are refused with a reason', async () => {
    const technician = await here.house.as('technician');
    const { id } = must(
      await ask(here.desk, { from: '2026-12-14T00:00:00Z', to: '2026-12-15T00:00:00Z', kind: 'training' }),
    );
    expect(refusedAt(await ask(technician, { from: '2026-12-14T12:00:00Z', to: '2026-12-16T00:00:00Z' }))).toEqual([
      409,
      'from',
      'conflict',
    ]);
    expect(refusedAt(await ask(technician, { from: '2026-12-18T12:00:00Z', to: '2026-12-18T12:00:00Z' }))).toEqual([
      422,
      'to',
      'invalid',
    ]);
    expect(refusedAt(await ask(technician, { personId: here.people.lia }))).toEqual([403, 'personId', 'not-allowed']);
    const asked = must(await ask(technician, { from: '2026-12-21T00:00:00Z', to: '2026-12-22T00:00:00Z' }));
    const decide = (body: object) =>
      here.desk('POST', `/api/rota/absences/${asked.id}/decision`, { version: 1, agreed: false, text: '', ...body });
    expect(refusedAt(await decide({}))).toEqual([422, 'text', 'missing']);
    must(await decide({ text: 'two are away already' }));
    expect(refusedAt(await decide({ version: 2, agreed: true }))).toEqual([409, null, 'wrong-stage']);
    must(await here.desk('POST', `/api/rota/absences/${id}/removal`, { version: 1 }));
  });
});

describe('somebody sick', () => {
  it('is replaced in all of the day’s appointments at one go; what cannot go over is named and stays', async () => {
    const [one, two] = [await repairOf(here, nextMachine()), await repairOf(here, nextMachine())];
    await needGas(two);
    const { lia, technician, rui } = here.people;
    must(await book([one], [rui], day('2026-12-03', '11:00'), { anyway: true }));
    must(await book([two], [rui], day('2026-12-03', '14:00'), { anyway: true }));
    const body = { person: rui, by: technician, date: '2026-12-03', anyway: true };
    const look = must(await here.desk<Replaced>('POST', '/api/rota/replace', { ...body, look: true }));
    expect(look.items.map((i) => [i.titles, i.moves, i.against.map((r) => r.what)])).toEqual([
      [['Warm'], true, []],
      [['Warm'], false, ['skill']],
    ]);
    // The preview is the act.
    expect(must(await here.desk<Replaced>('POST', '/api/rota/replace', body))).toEqual(look);
    const of = (await rotaOf(here.desk, '2026-12-03', 1)).appointments;
    expect(of.map((a) => a.personIds)).toEqual([[technician], [rui]]);
    expect((await page(one)).technician).toBe('The technician');
    expect(refusedAt(await here.desk('POST', '/api/rota/replace', { ...body, by: rui }))).toEqual([
      422,
      'by',
      'invalid',
    ]);
    expect(lia).toBeGreaterThan(0);
  });
});

describe('a day’s work', () => {
  it('is sent once: the technician hears of all of it, the customer of their window; moved, it is sent anew', async () => {
    const contact = { name: 'Marta', role: null, email: 'marta@norvela.example', phone: null, preferred: 'e-mail' };
    const contactId = must(
      await here.desk<{ id: number }>('POST', `/api/customers/${here.world.customerId}/contacts`, contact),
    ).id;
    const order = await repairOf(here, nextMachine(), { callerId: contactId });
    const { technician } = here.people;
    const { id } = must(await book([order], [technician], day('2026-12-04', '10:00')));
    const told = async () =>
      must(await here.desk<{ items: Told[] }>('GET', `/api/orders/${order}/told`)).items.filter(
        (t) => t.kind === 'order planned',
      );
    expect(await told()).toEqual([]);
    const send = () => here.desk('POST', '/api/rota/send', { date: '2026-12-04', people: [technician] });
    expect(must(await send())).toEqual({ sent: 1, already: 0, told: 1 });
    expect(must(await send())).toEqual({ sent: 0, already: 1, told: 0 });
    expect((await page(order)).stage).toBe('sent');
    expect(await told()).toHaveLength(1);
    const { db } = here.house.database;
    const mails = await db.select().from(outbox);
    expect(mails.find((m) => m.kind === 'order planned' && m.aboutId === order)?.body).toContain('10:00 to 11:00');
    expect(mails.filter((m) => m.kind === 'rota day').map((m) => m.body)).toEqual([
      expect.stringContaining('10:00–11:00 WO-'),
    ]);
    const shown = (await rotaOf(here.desk, '2026-12-04', 1)).appointments.find((a) => a.id === id);
    expect(shown).toMatchObject({ sent: true, told: { from: Date.parse('2026-12-04T10:00:00Z') } });

    must(
      await here.desk('PUT', `/api/rota/appointments/${id}`, {
        version: shown?.version,
        people: [technician],
        from: day('2026-12-04', '14:00'),
        minutes: 60,
      }),
    );
    expect((await page(order)).stage).toBe('planned');
    expect(must(await send())).toMatchObject({ sent: 1 });
  });
});

describe('people', () => {
  it('say what they lack, keep what was typed under its version, and lapse before they do', async () => {
    const { desk, people, gas, depots } = here;
    const read = async () =>
      must(
        await desk<{ items: { id: number; version: number; lacks: string[]; skills: { state: string }[] }[] }>(
          'GET',
          '/api/rota/people',
        ),
      ).items;
    expect((await read()).find((p) => p.id === people.lia)?.skills.map((s) => s.state)).toEqual(['lapses soon']);
    const put = (over: object) => desk('PUT', `/api/rota/people/${people.lia}`, technicianBody(over));
    expect(refusedAt(await put({ version: 0 }))).toEqual([409, null, 'stale']);
    expect(
      refusedAt(
        await put({
          version: 1,
          skills: [
            { skillId: gas, until: null },
            { skillId: gas, until: null },
          ],
        }),
      ),
    ).toEqual([422, 'skills.1.skillId', 'invalid']);
    expect(refusedAt(await put({ version: 1, skills: [{ skillId: 99, until: null }] }))).toEqual([
      404,
      'skills.0.skillId',
      'not-found',
    ]);
    expect(refusedAt(await put({ version: 1, latitude: 41 }))).toEqual([422, 'longitude', 'missing']);
    must(await put({ version: 1, depotId: null, skills: [{ skillId: gas, until: '2026-11-26' }] }));
    expect((await read()).find((p) => p.id === people.lia)?.lacks).toEqual(['no depot: say where they start']);
    // Nobody knows where she starts: the way is unknown, never nothing.
    const order = await repairOf(here, nextMachine());
    const { cannot } = must(await desk<CandidatesOut>('GET', `/api/rota/candidates/${order}?from=2026-12-02&days=1`));
    expect(cannot.find((c) => c.personId === people.lia)?.reasons[0]?.text).toContain('the travel is unknown');
    must(await put({ version: 2, depotId: depots[0], skills: [{ skillId: gas, until: '2026-11-26' }] }));
  });

  it('go together as a crew', async () => {
    const { desk, people } = here;
    const crew = (over: object = {}) => ({
      ...{ name: 'Validation', people: [people.lia, people.rui], fromDay: '2026-11-24', toDay: null, ...over },
    });
    const { id } = must(await desk<{ id: number }>('POST', '/api/rota/crews', crew()));
    expect(refusedAt(await desk('POST', '/api/rota/crews', crew()))).toEqual([409, 'name', 'taken']);
    expect(
      refusedAt(await desk('POST', '/api/rota/crews', crew({ name: 'B', people: [people.lia, people.lia] }))),
    ).toEqual([422, 'people', 'invalid']);
    expect(
      refusedAt(await desk('PUT', `/api/rota/crews/${id}`, { version: 1, ...crew({ toDay: '2026-11-23' }) })),
    ).toEqual([422, 'toDay', 'invalid']);
    must(await desk('PUT', `/api/rota/crews/${id}`, { version: 1, ...crew({ toDay: '2026-11-30' }) }));
    const crews = must(await desk<{ items: { people: { name: string }[] }[] }>('GET', '/api/rota/crews')).items;
    expect(crews.map((c) => c.people.map((p) => p.name))).toEqual([['Lia', 'Rui']]);
  });
});

// RFC 5545 re-read by parsers that are not ours (node-ical): what a person's calendar shows of the rota.
describe('a calendar feed of a person', () => {
  it('has their appointments at their instants, tentative until sent, and when they are away; moved, it follows', async () => {
    const { house, desk, people } = here;
    const { lia } = people;
    const order = await repairOf(here, here.world.assetIds[0], { title: 'Warm; at night, too' });
    const made = must(
      await desk<{ id: number; version: number }>(
        'POST',
        '/api/rota/appointments',
        bookingOf([order], [lia], '2026-11-25T14:00:00Z', { anyway: true }),
      ),
    );
    must(
      await desk('POST', '/api/rota/absences', {
        ...{ requestKey: randomUUID(), personId: lia, kind: 'training', text: '' },
        ...{ from: '2026-11-30T00:00:00Z', to: '2026-12-01T00:00:00Z' },
      }),
    );
    const { path } = must(
      await desk<{ path: string }>('POST', '/api/feeds', { requestKey: randomUUID(), kind: 'technician', of: lia }),
    );
    const events = async () => {
      const { body } = await house.app.inject({ method: 'GET', url: path });
      return Object.values(nodeIcal.sync.parseICS(body)).filter((c) => c?.type === 'VEVENT');
    };
    const mine = async () => (await events()).find((e) => e.uid === `appointment-${made.id}@stavok`);
    expect(await mine()).toMatchObject({ summary: 'Warm; at night, too', status: 'TENTATIVE' });
    expect((await mine())?.start?.toISOString()).toBe('2026-11-25T14:00:00.000Z');
    expect((await mine())?.end?.toISOString()).toBe('2026-11-25T15:00:00.000Z');
    expect((await events()).find((e) => e.summary === 'Away: in training')?.start?.toISOString()).toBe(
      '2026-11-30T00:00:00.000Z',
    );
    const before = Number((await mine())?.sequence);
    must(
      await desk('PUT', `/api/rota/appointments/${made.id}`, {
        ...{ version: made.version, people: [lia], from: '2026-11-25T15:00:00Z', minutes: 30, anyway: true },
      }),
    );
    expect((await mine())?.start?.toISOString()).toBe('2026-11-25T15:00:00.000Z');
    expect(Number((await mine())?.sequence)).toBeGreaterThan(before);
    must(await desk('POST', `/api/rota/appointments/${made.id}/out`, { version: made.version + 1, text: '' }));
    expect(await mine()).toBeUndefined();
  });
});
