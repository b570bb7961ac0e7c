import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  checkUse,
  MOST_ROWS_IN_FILE,
  PARTS_HEAD,
  priceOf,
  readParts,
  readShelvesFile,
  sayAmount,
  sayQuantity,
  plannedLeft,
} from './index.ts';

describe('using a part', () => {
  const plain = { serialTracked: false, name: 'Gasket' };
  const tracked = { serialTracked: true, name: 'Compressor' };
  const codes = (part: typeof plain, thousandths: number, serial = ''): string =>
    checkUse(part, { thousandths, serial })
      .map((r) => `${r.code} ${r.field}`)
      .join();
  it('takes a quantity above nothing, with three decimals at most', () => {
    expect([1000, 1, 0, -1000, 0.5, 2e9].map((n) => codes(plain, n))).toEqual([
      '',
      '',
      ...Array.from({ length: 4 }, () => 'invalid thousandths'),
    ]);
  });
  it('kept by serial takes one serial for one unit, and others none', () => {
    expect([codes(tracked, 1000), codes(tracked, 1000, 'K2-1'), codes(tracked, 2000, 'K2-1')]).toEqual([
      'missing serial',
      '',
      'invalid thousandths',
    ]);
    expect(codes(plain, 1000, 'K2-1')).toBe('unsupported serial');
  });
  it('costs its quantity times its price, and says it without needless zeros', () => {
    expect([priceOf(1500, 1_001), priceOf(1, 499), priceOf(1, 500)]).toEqual([1_502, 0, 1]);
    expect(
      [
        [1000, 'piece'],
        [4000, 'piece'],
        [500, 'metre'],
        [2000, 'box'],
        [3000, 'kg'],
      ].map(([n, unit]) => sayAmount(Number(n), String(unit))),
    ).toEqual(['1 piece', '4 pieces', '0.5 metres', '2 boxes', '3 kg']);
    expect([1000, 500, 1250, 12_000, 1].map(sayQuantity)).toEqual(['1', '0.5', '1.25', '12', '0.001']);
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 10_000_000 }), (n) => {
        expect(Math.round(Number(sayQuantity(n)) * 1000)).toBe(n);
      }),
    );
  });
});

describe('a parts list as a file', () => {
  const head = [...PARTS_HEAD];
  const good = ['GS-720', 'Door gasket', 'piece', '89.90', '51', 'no', 'no', ''];
  it('is read by its head, in any order and case; empty lines are none', () => {
    const { rows, bad } = readParts([
      ['Cost', 'NUMBER', 'name', 'List price'],
      ['1,5', 'A', 'Oil', '2'],
      ['', '', '', ''],
    ]);
    expect(bad).toEqual([]);
    expect(rows).toEqual([
      {
        ...{ line: 2, number: 'A', name: 'Oil', unit: 'piece', listPrice: 200, cost: 150 },
        ...{ consumable: false, serialTracked: false, tax: '', warrantyMonths: null },
      },
    ]);
  });
  it('says what is wrong by line and column, and reads the others', () => {
    const { rows, bad } = readParts([
      head,
      good,
      ['', 'x'.repeat(121), '', 'cheap', '-1', 'maybe', 'no', ''],
      ['gs-720', 'Twice', '', '1', '1', '', '', ''],
      ['OK-1', 'Filter', '', '1', '1', 'yes', 'y', 'reduced'],
    ]);
    expect(rows.map((r) => [r.line, r.number, r.consumable])).toEqual([
      [2, 'GS-720', false],
      [5, 'OK-1', true],
    ]);
    expect(bad.map((b) => [b.line, b.column])).toEqual([
      [3, 'number'],
      [3, 'name'],
      [3, 'list price'],
      [3, 'cost'],
      [3, 'consumable'],
      [4, 'number'],
    ]);
  });
  it('without its columns, or with too many rows, is refused as a whole', () => {
    expect(readParts([['number', 'name']]).bad[0]?.column).toBe('list price, cost');
    expect(readParts([]).bad[0]?.line).toBe(1);
    const many = Array.from({ length: MOST_ROWS_IN_FILE + 1 }, (_, i) => [`N${i}`, ...good.slice(1)]);
    expect(readParts([head, ...many])).toMatchObject({ rows: [], bad: [{ line: 1 }] });
  });
});

describe('what lies in a store as a file', () => {
  it('leaves as it is what it has no column for, and says what does not fit', () => {
    const { rows, bad } = readShelvesFile([
      ['number', 'bin', 'minimum', 'maximum', 'counted', 'unit'],
      ['A', 'R1-2', '2', '10', '3,5', 'm'],
      ['B', '', '', '', '', ''],
      ['C', 'R1', '2', '', 'many', ''],
      ['D', 'R1', '5', '4', '0.0001', ''],
    ]);
    expect(rows).toEqual([
      { line: 2, number: 'A', unit: 'm', bin: 'R1-2', kept: { minimum: 2000, maximum: 10_000 }, counted: 3500 },
      { line: 3, number: 'B', unit: '', bin: '', kept: { minimum: null, maximum: null }, counted: null },
    ]);
    expect(bad.map((b) => [b.line, b.column])).toEqual([
      [4, 'maximum'],
      [4, 'counted'],
      [5, 'maximum'],
      [5, 'counted'],
    ]);
    expect(
      readShelvesFile([
        ['number', 'counted'],
        ['A', '1'],
      ]).rows,
    ).toEqual([{ line: 2, number: 'A', unit: '', bin: null, kept: null, counted: 1000 }]);
  });

  it('of ten thousand rows says each that is wrong, and reads every other', () => {
    const many = Array.from({ length: 10_000 }, (_, i) => [`N${i}`, i % 97 === 0 ? 'x' : `${i}`]);
    const { rows, bad } = readShelvesFile([['number', 'counted'], ...many]);
    expect(bad.map((b) => b.line)).toEqual(many.flatMap((_, i) => (i % 97 === 0 ? [i + 2] : [])));
    expect(rows.length + bad.length).toBe(10_000);
  });
});

describe('parts that are planned', () => {
  const some = fc.array(
    fc.record({ partId: fc.integer({ min: 1, max: 4 }), thousandths: fc.integer({ min: 1, max: 5000 }) }),
  );

  it('are left as far as they were not used, each once; used to the end nothing is left', () => {
    fc.assert(
      fc.property(some, some, (planned, used) => {
        const left = plannedLeft(planned, used);
        const sum = (rows: typeof planned, id: number) =>
          rows.filter((r) => r.partId === id).reduce((all, r) => all + r.thousandths, 0);
        for (const id of [1, 2, 3, 4])
          expect(sum(left, id)).toBe(Math.max(0, sum(planned, id) - (sum(planned, id) > 0 ? sum(used, id) : 0)));
        expect(plannedLeft(planned, [...used, ...left])).toEqual([]);
        expect(new Set(left.map((l) => l.partId)).size).toBe(left.length);
      }),
    );
  });
});
