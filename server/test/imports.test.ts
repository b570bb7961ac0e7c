// Importing a register over the routes: dry run and loading agree, trees grow, nothing is half-written.
import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { eq } from 'drizzle-orm';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { asset, assetEvent, audit, customer, location, locationShare } from '../src/tables.ts';
import { HEAD, openHouse, registerCsv, type Caller, type TestHouse } from './house.ts';

type Remark = { line: number; column: string; message: string };
type Summary = {
  rows: number;
  customers: string[];
  classes: string[];
  locations: number;
  assets: number;
  alreadyHeld: number;
  bad: Remark[];
  notes: Remark[];
  sample: { line: number; tag: string; place: string | null }[];
};
const SAMPLE = readFileSync(fileURLToPath(new URL('../../e2e/register.csv', import.meta.url)), 'utf8');
let house: TestHouse;
let call: Caller;
beforeEach(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
});
afterEach(() => house.close());

const preview = async (text: string): Promise<Summary> =>
  (await call<Summary>('POST', '/api/register/import/preview', { fileName: 'x.csv', text })).body;
const load = async (text: string): Promise<Summary> =>
  (await call<Summary>('POST', '/api/register/import', { fileName: 'x.csv', text })).body;
const row = (cells: Partial<Record<string, string>>): string =>
  HEAD.split(',')
    .map((column) => cells[column] ?? '')
    .join(',');
const machine = (n: number, over: Partial<Record<string, string>> = {}): string =>
  row({
    customer: 'Alpha',
    location_path: 'Site > Room',
    zone: 'Europe/Lisbon',
    class: 'Incubator',
    maker: 'Vessmark',
    model: 'INC',
    serial: `S${n}`,
    tag: `T${n}`,
    ...over,
  });
const file = (...rows: string[]): string => [HEAD, ...rows].join('\n');

describe('the sample register', () => {
  it('loads as the dry run said: 115 of 120 rows, five bad ones named with their line', async () => {
    const dry = await preview(SAMPLE);
    expect(await house.database.db.$count(asset)).toBe(0);
    const loaded = await load(SAMPLE);
    expect(loaded).toEqual(dry);
    expect([loaded.rows, loaded.assets, loaded.customers.length, loaded.classes.length]).toEqual([120, 115, 3, 9]);
    expect(loaded.bad.map((b) => [b.line, b.column])).toEqual([
      [22, 'serial'],
      [35, 'zone'],
      [49, 'commissioned'],
      [62, 'parent_tag'],
      [73, 'latitude'],
    ]);
    expect(await house.database.db.$count(asset)).toBe(115);
    // One of them is told to be part of another.
    expect(await house.database.db.$count(assetEvent)).toBe(116);
    const again = await load(SAMPLE);
    expect([again.assets, again.alreadyHeld, again.locations, again.customers]).toEqual([0, 115, 0, []]);
  });

  it('gives the shared place to its second customer and keeps the child with its parent', async () => {
    const { notes } = await load(SAMPLE);
    expect(
      notes
        .filter((n) => n.line === 11)
        .map((n) => n.column)
        .sort(),
    ).toEqual(['address', 'parent_tag', 'zone']);
    const [child] = await house.database.db.select().from(asset).where(eq(asset.tag, 'Q0010'));
    const [parent] = await house.database.db.select().from(asset).where(eq(asset.tag, 'Q0009'));
    expect(child?.parentId).toBe(parent?.id);
    const shares = await house.database.db
      .select({ place: location.fullName, customer: customer.name })
      .from(locationShare)
      .innerJoin(location, eq(location.id, locationShare.locationId))
      .innerJoin(customer, eq(customer.id, locationShare.customerId));
    expect(shares).toContainEqual({
      place: 'Norvela > Building 1 > Floor 0 > Lab 6',
      customer: 'Quinta Serena Clinic',
    });
  });

  it('every place knows its whole path, and the site carries the zone', async () => {
    await load(SAMPLE);
    const nodes = await house.database.db.select().from(location);
    const byId = new Map(nodes.map((n) => [n.id, n]));
    for (const node of nodes) {
      const parent = node.parentId === null ? null : byId.get(node.parentId);
      expect(node.path).toBe(`${parent?.path ?? '/'}${node.id}/`);
      expect(node.fullName).toBe(parent ? `${parent.fullName} > ${node.name}` : node.name);
      if (node.parentId === null) expect(node.zone).toMatch(/^Europe\//);
    }
  });
});

describe('a second file', () => {
  it('hangs its machines under the places that are there', async () => {
    await load(file(machine(1)));
    const second = await load(
      file(machine(2), machine(3, { location_path: 'Site > Other room' }), machine(4, { location_path: 'New site' })),
    );
    expect([second.assets, second.locations, second.customers]).toEqual([3, 2, []]);
    const names = (await house.database.db.select({ name: location.fullName }).from(location))
      .map((l) => l.name)
      .sort();
    expect(names).toEqual(['New site', 'Site', 'Site > Other room', 'Site > Room']);
  });

  it('finds parents in the register and in itself, in any order of lines', async () => {
    await load(file(machine(1)));
    const second = await load(file(machine(3, { parent_tag: 'T2' }), machine(2, { parent_tag: 'T1' })));
    expect(second.bad).toEqual([]);
    const rows = await house.database.db.select({ id: asset.id, tag: asset.tag, parentId: asset.parentId }).from(asset);
    const idOf = (tag: string) => rows.find((r) => r.tag === tag)?.id;
    expect(rows.find((r) => r.tag === 'T3')?.parentId).toBe(idOf('T2'));
    expect(rows.find((r) => r.tag === 'T2')?.parentId).toBe(idOf('T1'));
  });

  it('names a serial or tag that is held already, as which machine', async () => {
    await load(file(machine(1)));
    const second = await load(
      file(machine(2, { serial: 'S1' }), machine(3, { tag: 'T1' }), machine(1, { customer: 'Beta' })),
    );
    expect(second.assets).toBe(0);
    expect(second.bad.map((b) => b.message)).toEqual([
      'Vessmark S1 is in the register already, as tag T1; correct the serial or the tag.',
      'The tag T1 belongs to Vessmark S1; give this machine another.',
      'T1 belongs to Alpha in the register; an import does not change the customer.',
    ]);
    expect((await house.database.db.select().from(customer)).map((c) => c.name)).toEqual(['Alpha']);
  });

  it('is noted: who loaded what, and where each machine came from', async () => {
    await load(file(machine(1), machine(2, { zone: 'Nowhere/X' })));
    const [entry] = await house.database.db.select().from(audit).where(eq(audit.subject, 'import'));
    expect(entry?.text).toBe('imported x.csv: 1 assets, 1 rows refused');
    expect((await house.database.db.select().from(assetEvent))[0]).toMatchObject({
      kind: 'registered',
      text: 'registered from x.csv, line 2',
      personId: 1,
    });
  });
});

describe('a file with', () => {
  it('thousands of rows loads in one go', async () => {
    const loaded = await load(registerCsv(3000));
    expect([loaded.assets, loaded.bad]).toEqual([3000, []]);
    expect(await house.database.db.$count(asset)).toBe(3000);
  });

  it('more rows than are taken at a time is refused before anything is written', async () => {
    const text = file(...Array.from({ length: 20_001 }, (_, i) => machine(i)));
    const answer = await call('POST', '/api/register/import', { fileName: 'big.csv', text });
    expect([answer.status, answer.body.detail]).toEqual([
      400,
      'The file has 20001 rows; at most 20000 are taken at a time. Split it.',
    ]);
    expect(await house.database.db.$count(customer)).toBe(0);
  });

  it.each<[string, Partial<Record<string, string>>, string]>([
    ['a loop of parents', { parent_tag: 'T1' }, 'parent_tag'],
    ['a future commissioning', { commissioned: '2026-11-25' }, 'commissioned'],
    ['an impossible warranty', { warranty_until: '2026-02-30' }, 'warranty_until'],
    ['an invented owner', { owner: 'nobody' }, 'owner'],
    ['no class', { class: '' }, 'class'],
    ['an endless name', { model: 'x'.repeat(121) }, 'model'],
  ])('%s names the column', async (_, over, column) => {
    const { bad, assets } = await preview(file(machine(1, over)));
    expect([bad.map((b) => b.column), assets]).toEqual([[column], 0]);
  });
});
