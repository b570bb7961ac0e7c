// Small measures beside sources outside: spread of past work, distances on the globe, and how urgent a clock is.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { spreadOf } from './orders/index.ts';
import { distanceKm, toGeoJson, type Position } from './places/index.ts';
import { compareByDue, marginOf } from './service-levels/index.ts';

describe('the spread of past work', () => {
  it('of values worked out by hand is theirs', () => {
    // 2, 4, 4, 4, 5, 5, 7, 9: mean 5, sum of squares 32, sample deviation √(32/7).
    const spread = spreadOf([9, 2, 4, 4, 5, 4, 5, 7]);
    expect(spread).toMatchObject({ count: 8, mean: 5, least: 2, median: 4.5, most: 9 });
    expect(spread?.deviation).toBeCloseTo(Math.sqrt(32 / 7), 12);
  });
  it('of one has no deviation, of none is none', () => {
    expect(spreadOf([3])).toEqual({ count: 1, mean: 3, deviation: null, least: 3, median: 3, most: 3 });
    expect(spreadOf([])).toBeNull();
  });
  it('moves with its values, and grows with them', () => {
    const values = fc.array(fc.integer({ min: -10_000, max: 10_000 }), { minLength: 2, maxLength: 40 });
    fc.assert(
      fc.property(values, fc.integer({ min: -500, max: 500 }), fc.integer({ min: 1, max: 9 }), (given, by, times) => {
        const [one, moved] = [spreadOf(given), spreadOf(given.map((x) => x * times + by))];
        if (!one || !moved) throw new Error('there are values');
        expect(moved.mean).toBeCloseTo(one.mean * times + by, 6);
        expect(moved.median).toBeCloseTo(one.median * times + by, 6);
        expect(moved.deviation).toBeCloseTo((one.deviation as number) * times, 5);
        expect(one.least <= one.median && one.median <= one.most).toBe(true);
        expect(one.least <= one.mean + 1e-9 && one.mean <= one.most + 1e-9).toBe(true);
      }),
    );
  });
});

describe('distances between sites', () => {
  const position = fc.record({
    latitude: fc.double({ min: -90, max: 90, noNaN: true }),
    longitude: fc.double({ min: -180, max: 180, noNaN: true }),
  });
  it('are those of a globe of the mean radius', () => {
    // A quarter of a great circle, and a degree of it along a meridian (radius 6,371.0088 km).
    expect(distanceKm({ latitude: 0, longitude: 0 }, { latitude: 90, longitude: 0 })).toBeCloseTo(10_007.557, 2);
    expect(distanceKm({ latitude: 41, longitude: -8 }, { latitude: 42, longitude: -8 })).toBeCloseTo(111.195, 2);
    // Across the line where longitudes begin anew.
    expect(distanceKm({ latitude: 0, longitude: 179.5 }, { latitude: 0, longitude: -179.5 })).toBeCloseTo(111.195, 2);
  });
  it('stay exact between opposite ends of the earth', () => {
    const [here, beside, far] = [0, 1.4210854715202007e-14, 179.99998848196384].map((longitude) => ({
      latitude: 0,
      longitude,
    })) as [Position, Position, Position];
    expect(Math.abs(distanceKm(here, far) - distanceKm(beside, far))).toBeLessThan(1e-9);
  });
  it('are the same both ways, none to oneself, and never longer by a detour', () => {
    fc.assert(
      fc.property(position, position, position, (a, b, c) => {
        expect(distanceKm(a, b)).toBeCloseTo(distanceKm(b, a), 6);
        expect(distanceKm(a, a)).toBe(0);
        expect(distanceKm(a, c)).toBeLessThanOrEqual(distanceKm(a, b) + distanceKm(b, c) + 1e-6);
      }),
    );
  });
  it('stand in GeoJSON with the longitude first', () => {
    const { features } = toGeoJson([{ latitude: 41.5, longitude: -8.4, properties: { name: 'Norvela' } }]);
    expect(features[0]).toEqual({
      type: 'Feature',
      geometry: { type: 'Point', coordinates: [-8.4, 41.5] },
      properties: { name: 'Norvela' },
    });
  });
});

describe('the margin of a clock', () => {
  const clock = { state: 'running' as const, promisedMinutes: 240, warnPercent: 25 };
  it('runs short from the warned share on, to the millisecond', () => {
    const quarter = 60 * 60_000;
    expect(marginOf({ ...clock, left: quarter + 1 })).toBe('enough');
    expect(marginOf({ ...clock, left: quarter })).toBe('short');
    expect(marginOf({ ...clock, left: 0 })).toBe('short');
    expect(marginOf({ ...clock, left: null })).toBe('short');
  });
  it.each([
    ['missed', 'missed'],
    ['paused', 'paused'],
    ['met', 'enough'],
    ['void', 'none'],
  ] as const)('of one that is %s is %s', (state, margin) =>
    expect(marginOf({ ...clock, state, left: 1 })).toBe(margin),
  );
  it('orders clocks by what comes first, those that stand still behind, the one with least left in front', () => {
    const clocks = [
      { name: 'paused, much left', dueAt: null, left: 900 },
      { name: 'late', dueAt: 50, left: -10 },
      { name: 'paused, little left', dueAt: null, left: 5 },
      { name: 'soon', dueAt: 20, left: 20 },
    ];
    expect([...clocks].sort(compareByDue).map((c) => c.name)).toEqual([
      'soon',
      'late',
      'paused, little left',
      'paused, much left',
    ]);
  });
});
