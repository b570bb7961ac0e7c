// Units: worked values, there and back again, and refusals by name.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { convertUnit, isSenmlUnit } from './index.ts';

describe('a reading in another unit of the same quantity', () => {
  // RFC 8798, section 3 (from memory): value in the base unit = value × scale + offset.
  it.each<[number, string, string, number]>([
    [253.15, 'K', 'Cel', -20],
    [-80, 'Cel', 'K', 193.15],
    [50, '%', '/', 0.5],
    [1013.25, 'hPa', 'Pa', 101_325],
    [36, 'km/h', 'm/s', 10],
    [2.5, 'h', 'min', 150],
    [30, 'dBm', 'dBW', 0],
    [1, 'kWh', 'J', 3_600_000],
    [250, 'mA', 'A', 0.25],
    [7, 'Cel', 'Cel', 7],
  ])('%s %s in %s is %s', (value, from, to, expected) => {
    expect(convertUnit(value, from, to)).toEqual({ ok: true, value: expected });
  });

  it('there and back again is the same value', () => {
    const pairs = fc.constantFrom(['K', 'Cel'], ['hPa', 'Pa'], ['h', 's'], ['ppm', '%'], ['km', 'mm'], ['MB/s', 'B/s']);
    fc.assert(
      fc.property(pairs, fc.double({ min: 1, max: 1e6, noNaN: true }), ([a, b], value) => {
        const there = convertUnit(value, a, b);
        const back = there.ok && convertUnit(there.value, b, a);
        expect(back && back.ok && back.value).toBeCloseTo(value, 4);
      }),
    );
  });

  it.each([
    ['°F', 'Cel', '“°F” is not a unit of SenML'],
    ['degF', 'Cel', '“degF” is not a unit of SenML'],
    ['Pa', 'Cel', 'Pa does not convert to Cel'],
  ])('%s for %s is refused by name', (from, to, said) => {
    const answer = convertUnit(1, from, to);
    expect(answer.ok ? '' : answer.refusals[0]?.message).toContain(said);
    expect(isSenmlUnit(from)).toBe(from === 'Pa');
  });
});
