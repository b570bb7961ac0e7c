// CSV that leaves the house is read again by an independent parser as it was, and never runs in a spreadsheet.
import { parse } from 'csv-parse/sync';
import { describe, expect, it } from 'vitest';
import { csvText, harmlessCell } from './csv.ts';

describe('cells that a spreadsheet would run', () => {
  // OWASP, “CSV injection”: cells that begin with = + - @ tab or return.
  it.each([
    ['=1+1', "'=1+1"],
    ['@SUM(A1)', "'@SUM(A1)"],
    ['-80', '-80'],
    ['-cmd', "'-cmd"],
    ['+351 912', "'+351 912"],
    ['plain', 'plain'],
  ])('%s leaves as %s', (from, to) => expect(harmlessCell(from)).toBe(to));
});

describe('CSV as text (RFC 4180)', () => {
  it('quotes commas, quotes and line breaks, ends every line with CRLF and begins with a byte order mark', () => {
    const rows = [
      ['tag', 'remark'],
      ['Q0001', 'says "warm", twice'],
      ['Q0002', 'two\nlines'],
      ['', '=2+2'],
    ];
    const text = csvText(rows);
    expect(text.startsWith('\uFEFFtag,remark\r\n')).toBe(true);
    expect(text.endsWith('\r\n')).toBe(true);
    expect(parse(text, { bom: true })).toEqual([...rows.slice(0, 3), ['', "'=2+2"]]);
  });
});

describe('signs that a spreadsheet may take for a formula', () => {
  it.each([
    '＝1+1',
    '＋1',
    '－1',
    '＠SUM(A1)',
    '\u200B=1+1',
    '\uFEFF=1+1',
    '\u202E@x',
    ' =1+1',
    '\u0000=1',
    '\u00AD=1',
    '\n=1',
  ])('%j is kept as text', (cell) => expect(harmlessCell(cell)).toBe(`'${cell}`));
  it.each(['a=b', '12', '-12.5', 'Lab 4', '', '\u200B', 'ＡＢＣ'])('%j stays as it is', (cell) =>
    expect(harmlessCell(cell)).toBe(cell),
  );
});
