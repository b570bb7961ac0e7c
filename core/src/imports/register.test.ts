import { describe, expect, it } from 'vitest';
import { asLocalDate } from '../time/index.ts';
import {
  checkColumns,
  planImport,
  REGISTER_COLUMNS,
  serialKey,
  type HeldAsset,
  type HeldRegister,
  type RegisterRow,
} from './index.ts';
import { inherit, pathTo, type PlaceNode } from '../places/index.ts';

const today = asLocalDate('2026-11-24');
const empty: HeldRegister = { customers: new Set(), locations: new Map(), tags: new Map(), serials: new Map() };
const row = (line: number, over: Partial<RegisterRow['cells']> = {}): RegisterRow => ({
  line,
  cells: {
    customer: 'Norvela Diagnostics',
    location_path: 'Norvela > Floor 1 > Lab 4',
    address: '72 Rua do Cais',
    latitude: '42.2',
    longitude: '-8.4',
    zone: 'Europe/Madrid',
    class: 'Incubator',
    maker: 'Vessmark',
    model: 'INC-240',
    serial: `S${line}`,
    tag: `T${line}`,
    owner: 'customer',
    commissioned: '2024-05-22',
    warranty_until: '',
    parent_tag: '',
    ...over,
  },
});

const heldAsset = (over: Partial<HeldAsset>): HeldAsset => ({
  tag: 'T2',
  maker: 'Vessmark',
  serial: 'S2',
  customer: 'Norvela Diagnostics',
  className: 'Incubator',
  model: 'INC-240',
  owner: 'customer',
  commissioned: '2024-05-22',
  warrantyUntil: null,
  locationPath: 'Norvela > Floor 1 > Lab 4',
  parentTag: null,
  ...over,
});

describe('planning an import', () => {
  it('creates customer, class, tree and assets once, with zone on the site and the street at the place', () => {
    const plan = planImport([row(2), row(3)], empty, today);
    expect(plan.customers).toEqual([{ name: 'Norvela Diagnostics', serviceAddress: '72 Rua do Cais' }]);
    expect(plan.locations.map((l) => [l.path, l.zone, l.address])).toEqual([
      ['Norvela', 'Europe/Madrid', null],
      ['Norvela > Floor 1', null, null],
      ['Norvela > Floor 1 > Lab 4', null, '72 Rua do Cais'],
    ]);
    expect([plan.classes, plan.assets.length, plan.bad, plan.shares]).toEqual([
      ['Incubator'],
      2,
      [],
      [{ customer: 'Norvela Diagnostics', path: 'Norvela' }],
    ]);
  });

  it.each<[string, Partial<RegisterRow['cells']>, string]>([
    ['zone', { zone: 'Europe/Atlantis' }, 'Europe/Lisbon'],
    ['commissioned', { commissioned: '31/02/2023' }, '2023-02-28'],
    ['commissioned', { commissioned: '2027-01-01' }, 'future'],
    ['owner', { owner: 'nobody' }, 'own fleet'],
    ['latitude', { latitude: '142' }, '-90 to 90'],
    ['longitude', { longitude: '8,4' }, '-180 to 180'],
    ['serial', { serial: '' }, 'missing'],
    ['customer', { customer: '' }, 'missing'],
    ['serial', { serial: 'S2' }, 'line 2'],
    ['tag', { tag: 'T2' }, 'line 2'],
    ['parent_tag', { parent_tag: 'Q9999' }, 'Q9999'],
    ['parent_tag', { parent_tag: 'T3' }, 'loop'],
    ['location_path', { location_path: 'a>b>c>d>e>f>g>h>i>j>k>l>m' }, '13 levels'],
  ])('names line, column and remedy of a bad %s', (column, over, said) => {
    const plan = planImport([row(2), row(3, over)], empty, today);
    expect(plan.bad).toEqual([{ line: 3, column, message: expect.stringContaining(said) as string }]);
    expect(plan.assets.map((a) => a.line)).toEqual([2]);
  });

  it('lets rows below a bad parent fall with it, each by name', () => {
    const plan = planImport(
      [row(2, { zone: 'Nowhere/X' }), row(3, { parent_tag: 'T2' }), row(4, { parent_tag: 'T3' })],
      empty,
      today,
    );
    expect(plan.bad.map((b) => b.line)).toEqual([2, 3, 4]);
    expect(plan.assets).toEqual([]);
    expect(plan.locations).toEqual([]);
  });

  it('puts a machine without a path at a site named by its address, and without either at no place', () => {
    const plan = planImport([row(2, { location_path: '' }), row(3, { location_path: '', address: '' })], empty, today);
    expect(plan.assets.map((a) => a.locationPath)).toEqual(['72 Rua do Cais', null]);
  });

  it('shares a place with a second customer, keeps the first zone and says so', () => {
    const plan = planImport(
      [
        row(2),
        row(3, { customer: 'Quinta Serena Clinic', zone: 'Europe/Lisbon', address: '57 Rua Nova', parent_tag: 'T2' }),
      ],
      empty,
      today,
    );
    expect(plan.shares).toContainEqual({ customer: 'Quinta Serena Clinic', path: 'Norvela > Floor 1 > Lab 4' });
    expect(plan.notes.map((n) => n.column)).toEqual(['address', 'zone', 'parent_tag']);
    expect(plan.assets).toHaveLength(2);
  });

  it('creates nothing for what is held already, and refuses a held serial under another tag', () => {
    const held: HeldRegister = {
      customers: new Set(['Norvela Diagnostics']),
      locations: new Map([
        ['Norvela', { zone: 'Europe/Madrid', address: null, customers: new Set(['Norvela Diagnostics']) }],
      ]),
      tags: new Map([['T2', heldAsset({})]]),
      serials: new Map([[serialKey('Vessmark', 'S2'), 'T2']]),
    };
    const plan = planImport([row(2), row(3, { serial: ' s2 ' }), row(4, { tag: 'T2', serial: 'S4' })], held, today);
    expect(plan.alreadyHeld).toBe(1);
    expect(plan.bad.map((b) => [b.line, b.column])).toEqual([
      [3, 'serial'],
      [4, 'tag'],
    ]);
    expect([plan.customers, plan.assets]).toEqual([[], []]);
  });

  describe('of assets that are held', () => {
    const held: HeldRegister = {
      customers: new Set(['Norvela Diagnostics']),
      locations: new Map([
        ['Norvela', { zone: 'Europe/Madrid', address: null, customers: new Set(['Norvela Diagnostics']) }],
      ]),
      tags: new Map([
        ['T2', heldAsset({})],
        ['T3', heldAsset({ tag: 'T3', serial: 'S3' })],
      ]),
      serials: new Map([
        [serialKey('Vessmark', 'S2'), 'T2'],
        [serialKey('Vessmark', 'S3'), 'T3'],
      ]),
    };
    const plan = (key: 'tag' | 'maker and serial' | 'tag and serial', ...rows: RegisterRow[]) =>
      planImport(rows, held, today, { dateFormat: 'dd/mm/yyyy', key });

    it('updates what a row says otherwise, and leaves alone what it does not say', () => {
      const { updates, assets, alreadyHeld } = plan(
        'tag',
        row(2, {
          model: 'INC-300',
          class: 'incubator',
          warranty_until: '01/02/2027',
          owner: '',
          maker: '',
          serial: '',
        }),
        row(3, { customer: '', commissioned: '22/05/2024' }),
      );
      expect(updates).toEqual([{ line: 2, tag: 'T2', changes: { model: 'INC-300', warrantyUntil: '2027-02-01' } }]);
      expect([assets, alreadyHeld]).toEqual([[], 1]);
    });
    it('takes a new serial when the tag is the key, a new tag when the serial is, and neither when both are', () => {
      expect(plan('tag', row(2, { serial: 'S9' })).updates[0]?.changes).toEqual({ serial: 'S9' });
      expect(plan('maker and serial', row(2, { tag: 'T9' })).updates[0]?.changes).toEqual({ tag: 'T9' });
      expect(plan('tag and serial', row(2, { tag: 'T9' })).bad.map((b) => b.column)).toEqual(['serial']);
      expect(plan('tag', row(2, { serial: 'S3' })).bad.map((b) => b.column)).toEqual(['serial']);
      expect(plan('maker and serial', row(2, { tag: 'T3' })).bad.map((b) => b.column)).toEqual(['tag']);
    });
    it('moves it to a place that is made where it is new', () => {
      const { updates, locations } = plan('tag', row(2, { location_path: 'Norvela > Floor 9' }));
      expect(updates[0]?.changes).toEqual({ locationPath: 'Norvela > Floor 9' });
      expect(locations.map((l) => l.path)).toEqual(['Norvela > Floor 9']);
    });
    it('refuses another customer and a parent that does not exist', () => {
      expect(plan('tag', row(2, { customer: 'Another' })).bad.map((b) => b.column)).toEqual(['customer']);
      expect(plan('tag', row(2, { parent_tag: 'Q404' })).bad.map((b) => b.column)).toEqual(['parent_tag']);
    });
  });

  it('names missing, unknown and repeated columns', () => {
    expect(checkColumns([...REGISTER_COLUMNS])).toEqual([]);
    expect(checkColumns(['customer', 'customer', 'colour']).join(' ')).toMatch(
      /missing: location_path.*“colour”.*twice: customer/,
    );
  });
});

describe('what a place inherits', () => {
  const node = (id: number, parentId: number | null, over: Partial<PlaceNode<number>> = {}): PlaceNode<number> => ({
    id,
    parentId,
    name: `N${id}`,
    address: null,
    zone: null,
    latitude: null,
    longitude: null,
    calendarId: null,
    depotId: null,
    joinDays: null,
    accessNote: null,
    ...over,
  });
  const nodes = new Map(
    [node(1, null, { zone: 'Europe/Lisbon', address: 'Site' }), node(2, 1, { address: 'Building C' }), node(3, 2)].map(
      (n) => [n.id, n],
    ),
  );
  // Common practice: a place without an address takes the nearest ancestor's.
  it('comes from the nearest node above that has it', () => {
    const path = pathTo(nodes, 3);
    expect(inherit(path, 'address')).toEqual({ value: 'Building C', from: { id: 2, name: 'N2' } });
    expect(inherit(path, 'zone')).toEqual({ value: 'Europe/Lisbon', from: { id: 1, name: 'N1' } });
    expect(inherit(path, 'latitude')).toBeNull();
  });
  it('never follows a loop', () => {
    const loop = new Map([node(1, 2), node(2, 1)].map((n) => [n.id, n]));
    expect(() => pathTo(loop, 1)).toThrow('loop');
  });
});
