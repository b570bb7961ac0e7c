import { describe, expect, it } from 'vitest';
import type { TableRow } from '../imports/index.ts';
import { placeKey, planAgreements } from './index.ts';

const CUSTOMER = 1;
const held = {
  customers: new Map([['norvela diagnostics', CUSTOMER]]),
  numbers: new Set(['ag-2001']),
  assets: new Map([
    ['q100', { id: 100, customerId: CUSTOMER }],
    ['x900', { id: 900, customerId: 2 }],
  ]),
  places: new Map([
    [placeKey('Norvela > Floor 1'), { id: 5, customerIds: new Set([CUSTOMER]) }],
    [placeKey('Elsewhere'), { id: 6, customerIds: new Set([2]) }],
  ]),
  classes: new Map([['ultra-low freezer', 3]]),
  serviceLevels: new Map([['cold storage', 8]]),
};
const HEADER = {
  number: 'SLA 17',
  customer: 'Norvela Diagnostics',
  name: 'Full care',
  from: '01/03/2026',
  to: '28/02/2027',
};
const LINE = { tag: 'Q100', labour: '100', parts: '50' };
const rowsOf = (...cells: Record<string, string>[]): TableRow[] => cells.map((c, i) => ({ line: i + 2, cells: c }));
const plan = (...cells: Record<string, string>[]) => planAgreements(rowsOf(...cells), held, 'dd/mm/yyyy');
const remarks = (...cells: Record<string, string>[]) => plan(...cells).bad.map((b) => `${b.line} ${b.column}`);

describe('agreements of a file', () => {
  it('rows of one number are one agreement, its header said once; lines run with it unless they say otherwise', () => {
    const { creates, bad } = plan(
      { ...HEADER, ...LINE, price: '1,250.00', billed_per: 'Quarter', notice_days: '60', renewal: 'Renews by itself' },
      {
        number: 'sla 17',
        place: 'Norvela>Floor 1',
        travel: '100',
        kinds: 'repair + inspection',
        service_level: 'COLD storage',
      },
      { number: 'SLA 17', class: 'Ultra-low freezer', labour: '0', line_from: '01/06/2026', line_price: '80,50' },
    );
    expect(bad).toEqual([]);
    expect(creates).toMatchObject([
      {
        number: 'SLA 17',
        customerId: CUSTOMER,
        term: { from: '2026-03-01', to: '2027-02-28' },
        priceMinor: 125_000,
        billingPer: 'quarter',
        billingTiming: 'in advance',
        noticeDays: 60,
        renewalMode: 'renews by itself',
        currency: 'EUR',
        lines: [
          {
            reach: { kind: 'asset', assetId: 100 },
            term: { from: '2026-03-01', to: null },
            labour: 100,
            parts: 50,
            consumables: 0,
            kinds: ['preventive', 'repair'],
          },
          {
            reach: { kind: 'location', locationId: 5 },
            travel: 100,
            kinds: ['repair', 'inspection'],
            serviceLevelId: 8,
          },
          { reach: { kind: 'class', assetClassId: 3 }, term: { from: '2026-06-01' }, labour: 0, priceMinor: 8050 },
        ],
      },
    ]);
  });

  it('a number held already changes nothing; an agreement may have no line yet; open ends end by notice', () => {
    const { creates, unchanged } = plan({ ...HEADER, number: 'AG-2001' }, { ...HEADER, to: '' });
    expect(unchanged).toBe(1);
    expect(creates).toMatchObject([{ number: 'SLA 17', lines: [], renewalMode: 'ends', term: { to: null } }]);
  });

  it('when one row is wrong none of its agreement loads, and the others say why; other agreements load', () => {
    const { creates, bad } = plan(
      { ...HEADER, ...LINE },
      { number: 'SLA 17', tag: 'Q999', labour: '100' },
      { ...HEADER, ...LINE, number: 'SLA 18' },
    );
    expect(creates.map((c) => c.number)).toEqual(['SLA 18']);
    expect(bad.map((b) => [b.line, b.column])).toEqual([
      [2, 'number'],
      [3, 'tag'],
    ]);
    expect(bad[0]?.message).toContain('line 3');
  });

  it.each<[string, Record<string, string>, string]>([
    ['no number', { number: '' }, 'number'],
    ['a number with signs', { number: 'AG;1' }, 'number'],
    ['no name', { name: '' }, 'name'],
    ['an unknown customer', { customer: 'Nobody' }, 'customer'],
    ['no start', { from: '' }, 'from'],
    ['a date in another order', { from: '03/31/2026' }, 'from'],
    ['an end before the start', { to: '28/02/2025' }, 'to'],
    ['a renewal of another kind', { renewal: 'maybe' }, 'renewal'],
    ['a currency that is none', { currency: 'E' }, 'currency'],
    ['a price below zero', { price: '-5' }, 'price'],
    ['a price that is none', { price: 'free' }, 'price'],
    ['a share over 100 %', { labour: '101' }, 'labour'],
    ['no share at all', { labour: '', parts: '' }, 'labour'],
    ['an unknown asset', { tag: 'Q999' }, 'tag'],
    ['an asset of another customer', { tag: 'X900' }, 'tag'],
    ['two things covered in one row', { class: 'Ultra-low freezer' }, 'class'],
    ['shares for nothing', { tag: '' }, 'tag'],
    ['an unknown place', { tag: '', place: 'Nowhere' }, 'place'],
    ['a place of another customer', { tag: '', place: 'Elsewhere' }, 'place'],
    ['an unknown class', { tag: '', class: 'Kettle' }, 'class'],
    ['an unknown service level', { service_level: 'Best effort' }, 'service_level'],
    ['a kind of work that is none', { kinds: 'repair + magic' }, 'kinds'],
    ['a line before its agreement', { line_from: '28/02/2026' }, 'line_from'],
  ])('%s is refused at its column', (_, over, column) =>
    expect(remarks({ ...HEADER, ...LINE, ...over })).toEqual([`2 ${column}`]),
  );

  it('a header told differently on a second row is refused there', () => {
    expect(remarks({ ...HEADER, ...LINE }, { ...HEADER, ...LINE, name: 'Parts shared' })).toEqual([
      '2 number',
      '3 name',
    ]);
  });
});
