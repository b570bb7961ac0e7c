// Imports with their runs over the routes: mapping, encodings, dates, updates, progress, stopping, undoing; and files.
import { asc, eq } from 'drizzle-orm';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { ImportPage } from '#api/imports.ts';
import { onThread } from '../src/imports/index.ts';
import { instant, type Instant } from '#core/time/index.ts';
import { asset, contact, customer, importRun, job, location, meterReading } from '../src/tables.ts';
import {
  buildWorld,
  finding,
  HEAD,
  openHouse,
  registerCsv,
  type Answer,
  type Caller,
  type TestHouse,
} from './house.ts';

let house: TestHouse;
let call: Caller;
beforeEach(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
});
afterEach(() => house.close());

const hand = (kind: string, text: string | Buffer, more = '') =>
  call<ImportPage>('POST', `/api/imports?kind=${kind}&name=file.csv${more}`, Buffer.from(text as string));
const read = async (id: number): Promise<ImportPage> => (await call<ImportPage>('GET', `/api/imports/${id}`)).body;
async function run(id: number): Promise<ImportPage> {
  expect((await call('POST', `/api/imports/${id}/run`)).status).toBe(200);
  for (;;) {
    const page = await read(id);
    if (page.state !== 'running') return page;
    await new Promise((r) => setTimeout(r, 40));
  }
}
async function load(kind: string, text: string): Promise<ImportPage> {
  const { body } = await hand(kind, text);
  return run(body.id);
}
const settings = (page: ImportPage, over: object) =>
  call<ImportPage>('PUT', `/api/imports/${page.id}/settings`, { ...page.settings, ...over });
const firstField = (answer: Answer<unknown>): unknown =>
  (answer.body as { errors: { field: string }[] }).errors[0]?.field;

describe('a register file', () => {
  it('loads as its dry run said, changes nothing when loaded again, and is undone as a whole', async () => {
    const dry = (await hand('assets', registerCsv(3))).body;
    expect(dry.tally).toEqual({
      created: { customers: 1, classes: 1, places: 6, assets: 3 },
      updated: 0,
      unchanged: 0,
      refused: 0,
    });
    expect(await house.database.db.$count(asset)).toBe(0);
    const done = await run(dry.id);
    expect([done.state, done.rowsDone, done.tally]).toEqual(['done', 3, dry.tally]);
    expect((await hand('assets', registerCsv(3))).body.tally).toMatchObject({ created: {}, unchanged: 3 });
    expect((await finding(call)('q101')).asset).toHaveLength(1);
    expect((await call('POST', `/api/imports/${dry.id}/undo`)).status).toBe(200);
    expect(await house.database.db.$count(asset)).toBe(0);
    expect(await house.database.db.$count(location)).toBe(0);
    expect(await house.database.db.$count(customer)).toBe(0);
    expect((await finding(call)('q101')).asset).toHaveLength(0);
    expect((await read(dry.id)).state).toBe('undone');
  });

  it('updates what it says otherwise; undoing puts the old values back', async () => {
    await load('assets', registerCsv(2));
    const change = 'tag;model;warranty until\nQ100;ULF-999;31/12/2027\nQ101;;';
    const page = (await hand('assets', change)).body;
    expect([page.settings.delimiter, page.needsDateFormat]).toEqual([';', true]);
    expect(firstField(await settings(page, { key: 'tag' }))).toBe('dateFormat');
    const read_ = (await settings(page, { key: 'tag', dateFormat: 'dd/mm/yyyy' })).body;
    expect(read_.tally).toMatchObject({ updated: 1, unchanged: 1, refused: 0 });
    await run(page.id);
    const first = async () => (await house.database.db.select().from(asset).orderBy(asc(asset.tag)))[0];
    expect(await first()).toMatchObject({ model: 'ULF-999', warrantyUntil: '2027-12-31', version: 2 });
    expect((await call('POST', `/api/imports/${page.id}/undo`)).status).toBe(200);
    expect(await first()).toMatchObject({ model: 'ULF-720', warrantyUntil: null });
    // The mapping of this head is remembered.
    expect((await hand('assets', change)).body).toMatchObject({ remembered: true, settings: { key: 'tag' } });
  });

  it('cannot be undone once something depends on it, and says what', async () => {
    const { body } = await hand('assets', registerCsv(3));
    await run(body.id);
    await buildWorld(call);
    const answer = await call('POST', `/api/imports/${body.id}/undo`);
    expect(answer.status).toBe(409);
    expect(answer.body.detail).toMatch(/schedules were written for its assets \(Q100/);
    expect(await house.database.db.$count(asset)).toBe(3);
  });

  it('of many rows loads in steps, can be stopped, goes on, and is undone', async () => {
    const rows = Array.from(
      { length: 7000 },
      (_, i) => `Load,Site ${i % 20} > Room ${i},,,,Europe/Lisbon,Incubator,Vessmark,INC,L${i},LT${i},,,,`,
    );
    const { body } = await hand('assets', [HEAD, ...rows].join('\n'));
    expect(body.tally.created).toMatchObject({ assets: 7000, places: 7020 });
    await call('POST', `/api/imports/${body.id}/run`);
    for (let page = await read(body.id); page.rowsDone === 0 && page.state === 'running'; page = await read(body.id))
      await new Promise((r) => setTimeout(r, 20));
    expect((await call('POST', `/api/imports/${body.id}/cancel`)).status).toBe(200);
    await new Promise((r) => setTimeout(r, 600));
    const stopped = await read(body.id);
    const held = await house.database.db.$count(asset);
    expect([stopped.state, held]).toEqual(['cancelled', stopped.rowsDone]);
    expect(held).toBeGreaterThan(0);
    expect(held).toBeLessThan(7000);
    expect((await run(body.id)).state).toBe('done');
    expect(await house.database.db.$count(asset)).toBe(7000);
    expect((await call('POST', `/api/imports/${body.id}/undo`)).status).toBe(200);
    expect([await house.database.db.$count(asset), await house.database.db.$count(location)]).toEqual([0, 0]);
  });

  it('taken over by another server after a crash loads each row once', async () => {
    const { body } = await hand('assets', registerCsv(3));
    // As a server leaves it that died: running, its lease run out, something written.
    await load('assets', registerCsv(1));
    await running(body.id, { leaseUntil: instant(1), fence: 4 });
    for (let n = 0; n < 100 && (await read(body.id)).state === 'running'; n += 1)
      await new Promise((r) => setTimeout(r, 40));
    expect((await read(body.id)).state).toBe('done');
    expect(await house.database.db.$count(asset)).toBe(3);
  });
});

/** An import in the hands of some server, with its lease. */
async function running(id: number, lease: { leaseUntil: Instant; fence: number }): Promise<number> {
  const { db } = house.database;
  await db
    .update(importRun)
    .set({ state: 'running' })
    .where(eq(importRun.id, id as never));
  const at = instant(Date.now());
  const [made] = await db
    .insert(job)
    .values({ kind: 'import', ask: { id }, state: 'running', dueAt: at, createdAt: at, ...lease })
    .$returningId();
  return made?.id as number;
}

describe('a worker that was overtaken', () => {
  it('writes nothing more: its number is not the one that stands', async () => {
    const { body } = await hand('assets', registerCsv(3));
    const far = instant(Date.now() + 3_600_000);
    const jobId = await running(body.id, { leaseUntil: far, fence: 7 });
    const ask = { url: house.url, id: body.id as never, now: house.now };
    await onThread('carryOut', { ...ask, claim: { id: jobId, fence: 6 } });
    expect([await house.database.db.$count(asset), (await read(body.id)).state]).toEqual([0, 'running']);
    await onThread('carryOut', { ...ask, claim: { id: jobId, fence: 7 } });
    expect([await house.database.db.$count(asset), (await read(body.id)).state]).toEqual([3, 'done']);
  });
});

describe('other files', () => {
  it('customers, contacts, places, meters and readings, one after the other', async () => {
    await load('assets', registerCsv(1));
    expect((await load('customers', 'Name\tService address\nBeta\t1 Quay')).tally.created).toEqual({ customers: 1 });
    expect((await load('contacts', 'customer,name,phone\nBeta,Eva Gândara,+351 900 111 222')).tally.created).toEqual({
      contacts: 1,
    });
    expect(
      (await load('locations', 'path,customer,zone,latitude,longitude\nQuay > Hall,Beta,Europe/Lisbon,41.5,-8.1')).tally
        .created,
    ).toEqual({ places: 2 });
    expect((await load('meters', 'tag,meter,unit\nQ100,Run hours,h')).tally.created).toEqual({ meters: 1 });
    const readings = await load(
      'readings',
      'tag,meter,date,value\nQ100,run hours,2026-11-02,200\nQ100,run hours,2026-11-01,100\nQ100,run hours,2026-11-03,50',
    );
    expect(readings.tally).toMatchObject({ created: { readings: 2 }, refused: 1 });
    expect((await house.database.db.select().from(meterReading)).map((r) => r.value)).toEqual([100, 200]);
    expect((await finding(call)('900111222')).customer.map((c) => c.title)).toEqual(['Beta']);
    expect(await house.database.db.$count(contact)).toBe(1);
  });

  it('in Windows-1252 are refused as UTF-8 and read when so chosen', async () => {
    const latin = Buffer.from('name\nCl\xednica', 'latin1');
    const answer = await hand('customers', latin);
    expect([answer.status, firstField(answer)]).toEqual([400, 'encoding']);
    const page = (await hand('customers', latin, '&encoding=windows-1252')).body;
    expect(page.sample).toEqual([['Clínica']]);
  });

  it.each<[string, string, string]>([
    ['nothing', '', 'file'],
    ['an unclosed quote', 'name\n"Beta', 'file'],
    ['ragged rows', 'name,role\nBeta', 'file'],
    ['bytes of a photo', 'name\u0000', 'file'],
    ['millions of rows', 'name\n'.repeat(4_000_000), 'file'],
    ['millions of commas', `name\n${','.repeat(10_000_000)}`, 'file'],
    ['a row without end', `name\n${'a'.repeat(10_000_000)}`, 'file'],
    ['a head without end', ','.repeat(10_000_000), 'file'],
    ['a quote opened in millions of rows', `name\n"${'a\n'.repeat(4_000_000)}`, 'file'],
  ])('with %s are refused plainly', async (_, text, field) => {
    const answer = await hand('customers', text === '' ? Buffer.alloc(0) : text);
    expect([answer.status >= 400 && answer.status < 500, firstField(answer)]).toEqual([true, field]);
  });

  it('rows that do not load come as CSV, with formulas kept as text', async () => {
    const { body } = await hand('customers', 'name,credit_days\n=1+1,x');
    const answer = await call<{ text: string }>('GET', `/api/imports/${body.id}/remarks.csv`);
    expect(String((answer.body as { text: string }).text)).toContain('2,credit_days,');
  });

  it('are for coordinators, managers and administrators', async () => {
    const technician = await house.as('technician');
    expect((await technician('POST', '/api/imports?kind=customers&name=x.csv', Buffer.from('name\nB'))).status).toBe(
      403,
    );
    expect((await technician('GET', '/api/imports')).status).toBe(403);
  });
});

describe('attached files', () => {
  // Smallest valid headers of each kind, as their standards begin.
  const PNG = Buffer.concat([Buffer.from('89504e470d0a1a0a0000000d49484452', 'hex'), Buffer.alloc(600_000, 7)]);
  const attach = (name: string, bytes: Buffer, id = 1) =>
    call<{ id: number }>('POST', `/api/files?subject=customer&subjectId=${id}&name=${name}`, bytes);
  beforeEach(async () => {
    await load('customers', 'name\nBeta\nGamma');
  });
  it('come back byte for byte, are kept once, and go with the last who names them', async () => {
    const { id } = (await attach('plan.png', PNG)).body;
    const other = (await attach('plan.png', PNG, 2)).body.id;
    expect(
      (
        await house.database.pool.query('SELECT COUNT(*) AS n FROM file_content WHERE media_type = ?', ['image/png'])
      )[0],
    ).toEqual([{ n: 1 }]);
    const cookieless = await house.app.inject({ method: 'GET', url: `/api/files/${id}/content` });
    expect(cookieless.statusCode).toBe(401);
    expect(
      (await call<{ items: { bytes: number; mediaType: string }[] }>('GET', '/api/files?subject=customer&subjectId=1'))
        .body.items,
    ).toMatchObject([{ bytes: PNG.length, mediaType: 'image/png' }]);
    await call('DELETE', `/api/files/${id}`);
    await call('DELETE', `/api/files/${other}`);
    expect(
      (
        await house.database.pool.query(
          'SELECT COUNT(*) AS n FROM file_chunk f JOIN file_content c USING (sha256) WHERE c.media_type = ?',
          ['image/png'],
        )
      )[0],
    ).toEqual([{ n: 0 }]);
  });
  it.each<[string, string, Buffer, number]>([
    ['that is not what its name says', 'photo.jpg', PNG, 400],
    ['of a kind not taken', 'tool.exe', Buffer.from('4d5a900003000000', 'hex'), 400],
    ['of 40 MB', 'huge.png', Buffer.concat([PNG, Buffer.alloc(40 * 1024 * 1024)]), 413],
    ['of nothing', 'empty.png', Buffer.alloc(0), 422],
  ])('one %s is refused', async (_, name, bytes, status) => expect((await attach(name, bytes)).status).toBe(status));
  it('for a customer who is not there are refused', async () =>
    expect((await attach('plan.png', PNG, 999)).status).toBe(404));
});
