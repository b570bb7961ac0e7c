import { describe, expect, it } from 'vitest';
import { asLocalDate } from '../time/index.ts';
import { checkNumber, checkPattern, numberBy } from './index.ts';

const on = asLocalDate('2026-11-24');

describe('a scheme of numbers', () => {
  it.each([
    ['AG-{number}', 2041, 'AG-2041'],
    ['{year}/{number:4}', 7, '2026/0007'],
    ['SC {number:2}.{year}', 1234, 'SC 1234.2026'],
  ])('%s gives %i as %s', (pattern, next, number) => {
    expect(checkPattern(pattern).ok).toBe(true);
    expect(numberBy(pattern, next, on)).toBe(number);
    expect(checkNumber(number).ok).toBe(true);
  });

  it.each([
    ['no running number', 'AG-2041'],
    ['two of them', '{number}-{number}'],
    ['braces of another kind', 'AG-{number}-{month}'],
    ['signs that break a line', 'AG;{number}'],
    ['more than 30 characters', `${'A'.repeat(25)}{number}`],
  ])('is refused with %s', (_, pattern) => expect(checkPattern(pattern).ok).toBe(false));
});

describe('a number given by hand', () => {
  it('loses blanks around it and doubled ones', () =>
    expect(checkNumber('  SLA  17/b ')).toEqual({ ok: true, value: 'SLA 17/b' }));
  it.each(['', '   ', '-7', 'a;b', 'x'.repeat(41)])('“%s” is refused', (number) =>
    expect(checkNumber(number).ok).toBe(false),
  );
});
