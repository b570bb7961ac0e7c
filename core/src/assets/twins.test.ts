import { describe, expect, it } from 'vitest';
import {
  checkMapping,
  DATE_FORMATS,
  guessMapping,
  needsDateFormat,
  readImportDate,
  type ImportSettings,
} from '../imports/index.ts';
import { checkMerge, findTwins } from './index.ts';
import { distanceKm, toGeoJson } from '../places/index.ts';
import { spreadOf } from '../orders/index.ts';

const asset = (id: number, serialPlain: string, locationId = 1, customerId = 1) => ({
  id,
  serialPlain,
  locationId,
  customerId,
  maker: 'Tindrel',
  tag: `Q${id}`,
});

describe('twins', () => {
  it('are the same serial anywhere, and mistaken letters or one slip at one place', () =>
    expect(
      findTwins([
        asset(1, 'ulf720q1100'),
        asset(2, 'ulf720q1100', 9),
        asset(3, 'u1f720q1100'),
        asset(4, 'ulf72q1100'),
        asset(5, 'u1f720q1100', 3),
      ]).map((p) => [p.a, p.b, p.because]),
    ).toEqual([
      [1, 2, 'same serial'],
      [1, 3, 'near-same serial at one place'],
      [1, 4, 'near-same serial at one place'],
      [3, 5, 'same serial'],
    ]));
  it('are not machines numbered in sequence, nor short serials one letter apart', () =>
    expect(findTwins([asset(1, 'ulf720q1100'), asset(2, 'ulf720q1101'), asset(3, 'a17'), asset(4, 'b17')])).toEqual(
      [],
    ));
  it('merge only within a customer, into one that is in use', () => {
    const a = { id: 1, customerId: 1, tag: 'A', state: 'in service' };
    const other = { ...a, id: 2, isMergedAway: false };
    expect(checkMerge(a, other).ok).toBe(true);
    for (const [kept, gone] of [
      [a, { ...a, isMergedAway: false }],
      [a, { ...other, customerId: 2 }],
      [{ ...a, state: 'retired' }, other],
      [a, { ...other, isMergedAway: true }],
    ] as const)
      expect(checkMerge(kept, gone).ok).toBe(false);
  });
});

describe('mapping a file', () => {
  const settings = (over: Partial<ImportSettings>): ImportSettings => ({
    encoding: 'utf-8',
    delimiter: ',',
    dateFormat: 'yyyy-mm-dd',
    key: 'tag',
    mapping: {},
    ...over,
  });
  it('is guessed from heads that say a field or its label', () =>
    expect(guessMapping('contacts', ['Telefone', 'E-mail', 'CUSTOMER', 'Name'])).toEqual({
      customer: 2,
      name: 3,
      email: 1,
    }));
  it('names what is missing, twice or not there', () => {
    expect(checkMapping('assets', settings({ mapping: { tag: 0 } }), 3)).toEqual([]);
    expect(checkMapping('assets', settings({ key: 'tag and serial', mapping: { tag: 0 } }), 3)[0]).toContain('Maker');
    expect(checkMapping('contacts', settings({ mapping: { customer: 0, name: 0, colour: 9 } }), 3)).toHaveLength(3);
  });
  it('dates are read in the chosen order only, ISO always', () => {
    expect(DATE_FORMATS.map((f) => readImportDate('03/04/2024', f))).toEqual([null, '2024-04-03', '2024-03-04']);
    expect(DATE_FORMATS.map((f) => readImportDate('2024-04-03', f))).toEqual(Array(3).fill('2024-04-03'));
    expect(readImportDate('31/02/2024', 'dd/mm/yyyy')).toBeNull();
    expect(needsDateFormat(['2024-01-01', '', 'soon'])).toBe(false);
    expect(needsDateFormat(['', '1/2/2024', 'soon'])).toBe(true);
    expect(needsDateFormat(['2024-01-01', '31/02/2023'])).toBe(false);
  });
});

describe('figures of past work', () => {
  // NIST/SEMATECH e-Handbook of Statistical Methods, 1.3.5.6 (sample standard deviation); values worked by hand.
  it('have mean, spread, median and range', () => {
    expect(spreadOf([2, 4, 4, 4, 5, 5, 7, 9])).toEqual({
      count: 8,
      mean: 5,
      deviation: Math.sqrt(32 / 7),
      least: 2,
      median: 4.5,
      most: 9,
    });
    expect(spreadOf([])).toBeNull();
    expect(spreadOf([3])?.deviation).toBeNull();
  });
});

describe('positions', () => {
  // Widely published test value: 36.12 N 86.67 W to 33.94 N 118.40 W = 2,887 km at R = 6,372.8 km.
  it('great-circle distance', () => {
    const [a, b] = [
      { latitude: 36.12, longitude: -86.67 },
      { latitude: 33.94, longitude: -118.4 },
    ];
    expect(distanceKm(a, b, 6372.8)).toBeCloseTo(2887.26, 1);
    expect(distanceKm(a, a)).toBe(0);
    expect(distanceKm(b, a)).toBe(distanceKm(a, b));
  });
  it('GeoJSON puts longitude first (RFC 7946, 3.1.1)', () =>
    expect(toGeoJson([{ latitude: 41.5, longitude: -8.4, properties: { name: 'Site' } }])).toEqual({
      type: 'FeatureCollection',
      features: [
        { type: 'Feature', geometry: { type: 'Point', coordinates: [-8.4, 41.5] }, properties: { name: 'Site' } },
      ],
    }));
});
