// Absences and known times of travel from files over the routes: loaded, felt by the rota, undone; and how travel is reckoned, changed.
import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { ImportPage } from '#api/imports.ts';
import type { AbsenceOut, TravelOut } from '#api/rota-people.ts';
import type { CandidatesOut } from '#api/rota.ts';
import { prepareAbsences } from '../src/imports/rota.ts';
import { absence, travelTime } from '../src/tables.ts';
import { refusedAt } from './calling.ts';
import { must } from './house.ts';
import { bookingOf, openRota, repairOf, saysOf, type RotaHouse } from './rota-house.ts';

let here: RotaHouse;
let order: number;
let site: string;
beforeAll(async () => {
  here = await openRota();
  order = await repairOf(here, here.world.assetIds[0]);
  const [rows] = await here.house.database.pool.query(
    'SELECT l.full_name AS name FROM asset a JOIN location l ON l.id = a.location_id WHERE a.id = ?',
    [here.world.assetIds[0]],
  );
  // Rooms are part of their site, and there is no way within it.
  [site = ''] = ((rows as { name: string }[])[0]?.name ?? '').split(' > ');
});
afterAll(() => here?.house.close());

async function load(kind: string, text: string): Promise<ImportPage> {
  const { id } = must(
    await here.desk<ImportPage>(
      'POST',
      `/api/imports?kind=${encodeURIComponent(kind)}&name=file.csv`,
      Buffer.from(text) as never,
    ),
  );
  must(await here.desk('POST', `/api/imports/${id}/run`));
  for (;;) {
    const page = must(await here.desk<ImportPage>('GET', `/api/imports/${id}`));
    if (page.state !== 'running') return page;
    await new Promise((r) => setTimeout(r, 40));
  }
}
const undo = async ({ id }: ImportPage) => must(await here.desk('POST', `/api/imports/${id}/undo`));
const wayOf = async (name: string): Promise<string | undefined> => {
  const { can } = must(await here.desk<CandidatesOut>('GET', `/api/rota/candidates/${order}?days=3`));
  return can.find((c) => c.name === name)?.travel;
};

describe('absences from a file', () => {
  it('keep people from being planned, name what they leave, and go again when undone', async () => {
    const loaded = await load(
      'absences',
      'Person,Kind,First day,Last day,Note\nRui,leave,2026-12-10,2026-12-11,far away\nNobody,leave,2026-12-10,2026-12-11,',
    );
    expect(loaded.tally).toMatchObject({ created: { absences: 1 }, refused: 1 });
    const { items } = must(await here.desk<{ items: AbsenceOut[] }>('GET', '/api/rota/absences'));
    expect(items.find((a) => a.person.name === 'Rui')).toMatchObject({
      ...{ kind: 'leave', state: 'agreed', text: 'far away' },
      ...{ from: Date.parse('2026-12-10T00:00:00Z'), to: Date.parse('2026-12-12T00:00:00Z') },
    });
    const book = () =>
      here.desk<{ id: number; version: number }>(
        'POST',
        '/api/rota/appointments',
        bookingOf([order], [here.people.rui], '2026-12-10T12:00:00Z', { anyway: true }),
      );
    expect(saysOf(await book())[0]).toContain('on leave');
    await undo(loaded);
    expect(await here.house.database.db.$count(absence)).toBe(0);
    const { id, version } = must(await book());
    must(await here.desk('POST', `/api/rota/appointments/${id}/out`, { version, text: '' }));
  });

  it('at a time at which somebody was entered meanwhile are not written, none of them', async () => {
    const { database, now } = here.house;
    const row = (line: number, person: string, day: string) => ({
      line,
      cells: { person, kind: 'leave', from: day, to: day, note: '' },
    });
    const rows = [row(2, 'Rui', '2027-02-01'), row(3, 'Lia', '2027-02-01')];
    const prepared = await prepareAbsences(database.db, rows, { dateFormat: 'yyyy-mm-dd' } as never, now);
    expect(prepared.created).toEqual({ absences: 2 });
    const body = { kind: 'sick', text: '', from: '2027-02-01T00:00:00Z', to: '2027-02-02T00:00:00Z' };
    const { id } = must(
      await here.desk<{ id: number }>('POST', '/api/rota/absences', {
        ...{ requestKey: randomUUID(), personId: here.people.lia },
        ...body,
      }),
    );
    const before = await database.db.$count(absence);
    const write = prepared.steps[0]?.write;
    await expect(
      database.transact(async (tx) => write?.(tx, { importId: null, who: { id: here.people.rui } } as never)),
    ).rejects.toThrow('Lia was entered as absent meanwhile');
    expect(await database.db.$count(absence)).toBe(before);
    must(await here.desk('POST', `/api/rota/absences/${id}/removal`, { version: 1 }));
  });

  it('that somebody changed since cannot be undone', async () => {
    const loaded = await load('absences', 'person,kind,from,to\nRui,leave,2026-12-20,2026-12-21');
    const { items } = must(await here.desk<{ items: AbsenceOut[] }>('GET', '/api/rota/absences'));
    const [own] = items;
    const body = { version: 1, kind: 'training', text: '', from: '2026-12-20T00:00:00Z', to: '2026-12-21T00:00:00Z' };
    must(await here.desk('PUT', `/api/rota/absences/${own?.id}`, body));
    const refused = await here.desk('POST', `/api/imports/${loaded.id}/undo`);
    expect(saysOf(refused)[0]).toContain('absences were changed since (Rui)');
    expect(await here.house.database.db.$count(absence)).toBe(1);
  });
});

describe('known times of travel from a file', () => {
  it('go before the estimate, in both directions, until they are undone; changed ones get back what they were', async () => {
    const before = await wayOf('Lia');
    expect(before).toContain('estimated');
    const loaded = await load('travel times', `from,to,minutes\nRibeira,${site},44\nRibeira,Nowhere,3`);
    expect(loaded.tally).toMatchObject({ created: { 'travel times': 1 }, refused: 1 });
    expect(await wayOf('Lia')).toBe('44 min, a known time');
    const { shown } = must(await here.desk<TravelOut>('GET', '/api/rota/travel'));
    expect(shown).toEqual([{ from: 'Ribeira', to: site, minutes: 44 }]);
    const again = await load('travel times', `from,to,minutes\nRibeira,${site},50`);
    expect(again.tally).toMatchObject({ created: {}, updated: 1 });
    expect(await wayOf('Lia')).toBe('50 min, a known time');
    await undo(again);
    expect(await wayOf('Lia')).toBe('44 min, a known time');
    // What came of the second import stands in a row of the first: that one is undone as changed since.
    expect(saysOf(await here.desk('POST', `/api/imports/${loaded.id}/undo`))[0]).toContain('changed since');
    await here.house.database.db.delete(travelTime);
  });
});

describe('how travel is reckoned', () => {
  it('is changed at once for everybody, by whoever may, and refused at its field where it cannot be', async () => {
    const rules = { detour: 2, fixedMinutes: 0, bands: [{ belowKm: null, kmPerHour: 60 }] };
    const keep = (over: object, call = here.desk) => call('PUT', '/api/rota/travel', { version: 0, ...rules, ...over });
    const { version } = must(await here.desk<TravelOut>('GET', '/api/rota/travel'));
    expect(refusedAt(await keep({ version, detour: 0.5 }))).toEqual([422, 'detour', 'invalid']);
    expect(refusedAt(await keep({ version, bands: [{ belowKm: 5, kmPerHour: 60 }] }))).toEqual([
      422,
      'bands.0.belowKm',
      'invalid',
    ]);
    expect((await keep({ version }, await here.house.as('technician'))).status).toBe(403);
    must(await keep({ version }));
    expect((await keep({ version })).status).toBe(409);
    // 11 km to the north as the crow flies, twice that by road, at a kilometre a minute.
    const way = await wayOf('Lia');
    expect(way).toMatch(/^about 2\d min, estimated from 2\d\.\d km by road$/);
  });
});
