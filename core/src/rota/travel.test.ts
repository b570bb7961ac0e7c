import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { distanceKm, EARTH_KM, type Position } from '../places/index.ts';
import { checkTravelRules, sayTravel, travelBetween, TRAVEL_RULES, type Spot, type TravelRules } from './index.ts';

/** Two spots so far apart on a meridian that the road between them has this many kilometres. */
function apart(roadKm: number, { detour }: TravelRules = TRAVEL_RULES): [Spot, Spot] {
  const degrees = ((roadKm / detour / EARTH_KM) * 180) / Math.PI;
  return [
    { key: 'a', at: { latitude: 40, longitude: -8 } },
    { key: 'b', at: { latitude: 40 + degrees, longitude: -8 } },
  ];
}
const minutes = (roadKm: number, rules = TRAVEL_RULES) => travelBetween(...apart(roadKm, rules), rules)?.minutes;

// Source of the rule: the domain's Rota and its settled questions.
describe('travel between two places', () => {
  it.each([
    // Worked by hand: kilometres of each band at its own speed, rounded up once, and 5 minutes.
    [7, 12 + 5],
    [10, 18 + 5], // 17.14
    [25, 33 + 5], // 17.14 + 15 = 32.14
    [50, 58 + 5], // 17.14 + 40 = 57.14
    [60, 65 + 5], // 57.14 + 7.06 = 64.20
    [135, 118 + 5], // 57.14 + 60 = 117.14
  ])('of %d km by road takes %d minutes', (roadKm, wanted) => {
    expect(minutes(roadKm)).toBe(wanted);
  });

  it('is nothing at the same place or the same coordinates, unknown without a position, and never 0 otherwise', () => {
    const here: Spot = { key: 'place 1', at: { latitude: 41.1, longitude: -8.6 } };
    expect(travelBetween(here, { ...here, at: null })).toEqual({ by: 'same place', minutes: 0 });
    expect(travelBetween(here, { ...here, key: 'place 2' })).toEqual({ by: 'same place', minutes: 0 });
    expect(travelBetween(here, { key: 'place 2', at: null })).toBeNull();
    expect(sayTravel(null)).toContain('unknown');
    expect(travelBetween(here, { key: 'next door', at: { latitude: 41.1001, longitude: -8.6 } })?.minutes).toBe(6);
  });

  it('is a known time where there is one, taken whole, also between places without a position; not at the same place', () => {
    const known = (from: string, to: string) => (from === 'a' && to === 'b' ? 42 : undefined);
    const [a, b] = apart(500);
    expect(travelBetween(a, b, TRAVEL_RULES, known)).toEqual({ by: 'known time', minutes: 42 });
    expect(travelBetween({ ...a, at: null }, { ...b, at: null }, TRAVEL_RULES, known)?.minutes).toBe(42);
    // The way back is another one.
    expect(travelBetween(b, a, TRAVEL_RULES, known)?.by).toBe('estimate');
    expect(travelBetween(a, a, TRAVEL_RULES, () => 9)?.minutes).toBe(0);
    expect(sayTravel({ by: 'estimate', minutes: 23, roadKm: 10.04 })).toBe(
      'about 23 min, estimated from 10.0 km by road',
    );
  });

  it('takes no less for more road, is the same both ways, and agrees with a drive summed metre by metre', () => {
    const spot = fc.record({
      latitude: fc.double({ min: 36, max: 44, noNaN: true }),
      longitude: fc.double({ min: -10, max: 3, noNaN: true }),
    });
    fc.assert(
      fc.property(spot, spot, (p: Position, q: Position) => {
        const [a, b] = [
          { key: 'a', at: p },
          { key: 'b', at: q },
        ];
        const there = travelBetween(a, b);
        expect(travelBetween(b, a)?.minutes).toBe(there?.minutes);
        if (there?.by !== 'estimate') return;
        const road = distanceKm(p, q) * 1.3;
        const STEPS = 4000;
        let hours = 0;
        for (let i = 0; i < STEPS; i += 1) {
          const km = ((i + 0.5) / STEPS) * road;
          hours += road / STEPS / (km < 10 ? 35 : km < 50 ? 60 : 85);
        }
        // The sum is exact but for the steps in which the speed changes.
        expect(Math.abs(there.minutes - 5 - hours * 60)).toBeLessThan(1 + (road / STEPS) * 2);
      }),
      { numRuns: 200 },
    );
    expect([1, 5, 9.99, 10, 10.01, 30, 50, 51, 400].map((km) => minutes(km))).toEqual(
      [1, 5, 9.99, 10, 10.01, 30, 50, 51, 400].map((km) => minutes(km)).sort((x, y) => (x ?? 0) - (y ?? 0)),
    );
  });
});

describe('the rules of travel', () => {
  it('are refused at their fields where they make no sense, and those of the domain are none of these', () => {
    const fields = (rules: Partial<TravelRules>) => checkTravelRules({ ...TRAVEL_RULES, ...rules }).map((r) => r.field);
    expect(fields({})).toEqual([]);
    expect(fields({ detour: 0.9 })).toEqual(['detour']);
    expect(fields({ fixedMinutes: -1 })).toEqual(['fixedMinutes']);
    expect(fields({ bands: [] })).toEqual(['bands']);
    expect(fields({ bands: [{ belowKm: 10, kmPerHour: 0 }] })).toEqual(['bands.0.kmPerHour', 'bands.0.belowKm']);
    expect(
      fields({
        bands: [
          { belowKm: 20, kmPerHour: 30 },
          { belowKm: 20, kmPerHour: 40 },
          { belowKm: null, kmPerHour: NaN },
        ],
      }),
    ).toEqual(['bands.1.belowKm', 'bands.2.kmPerHour']);
  });
});
