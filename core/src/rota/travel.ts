// Travel between two places: a known time where there is one, else an estimate by distance and speed. Minutes throughout.
import { distanceKm, type Position } from '../places/index.ts';
import { refusal, type Refusal } from '../refusal.ts';

/** Road kilometres below a distance are driven at a speed; the last band has no end. */
export type SpeedBand = { readonly belowKm: number | null; readonly kmPerHour: number };

export type TravelRules = {
  /** Road kilometres for one of the straight line. */
  readonly detour: number;
  readonly bands: readonly SpeedBand[];
  /** For setting out, parking and finding the way in. */
  readonly fixedMinutes: number;
};

/** Source: domain-work, Rota. */
export const TRAVEL_RULES: TravelRules = {
  detour: 1.3,
  bands: [
    { belowKm: 10, kmPerHour: 35 },
    { belowKm: 50, kmPerHour: 60 },
    { belowKm: null, kmPerHour: 85 },
  ],
  fixedMinutes: 5,
};

/** Somewhere to start from or to go to; `at` is null where its position is not known. */
export type Spot = { readonly key: string; readonly at: Position | null };

export type Travel =
  | { readonly by: 'same place'; readonly minutes: 0 }
  | { readonly by: 'known time'; readonly minutes: number }
  | { readonly by: 'estimate'; readonly minutes: number; readonly roadKm: number };

/** The time between two spots that somebody measured, by their keys; undefined where nobody did. */
export type KnownTimes = (from: string, to: string) => number | undefined;

/** Nobody drives longer within a day. */
export const MOST_TRAVEL_MINUTES = 1440;

/** Times by both ends; where only one direction is known it holds for both. */
export function knownTimes(of: readonly (readonly [from: string, to: string, minutes: number])[]): KnownTimes {
  const known = new Map(of.map(([from, to, minutes]) => [`${from}|${to}`, minutes]));
  return (from, to) => known.get(`${from}|${to}`) ?? known.get(`${to}|${from}`);
}

const NONE_KNOWN: KnownTimes = () => undefined;

/** What the sum of fractions may be above a whole minute without being more than it. */
const ROUNDING = 1e-9;

/** Minutes on the road, each band's kilometres at its own speed, rounded up once; without what is fixed. */
function drivingMinutes(roadKm: number, bands: readonly SpeedBand[]): number {
  let hours = 0;
  let from = 0;
  for (const { belowKm, kmPerHour } of bands) {
    const to = Math.min(roadKm, belowKm ?? Infinity);
    if (to > from) hours += (to - from) / kmPerHour;
    from = Math.max(from, to);
  }
  return Math.ceil(hours * 60 - ROUNDING);
}

/**
 * Minutes from one spot to another. The same place, or the same coordinates, is 0; a known time is taken whole; else the great-circle
 * distance × detour at the speeds of its bands, rounded up once, and what is fixed on top. Null: unknown, where a position is missing
 * and no time is known; nobody is planned over it. Source: domain-work, Rota and Settled questions.
 */
export function travelBetween(
  from: Spot,
  to: Spot,
  rules: TravelRules = TRAVEL_RULES,
  known: KnownTimes = NONE_KNOWN,
): Travel | null {
  if (from.key === to.key) return { by: 'same place', minutes: 0 };
  const measured = known(from.key, to.key);
  if (measured !== undefined) return { by: 'known time', minutes: measured };
  if (from.at === null || to.at === null) return null;
  if (from.at.latitude === to.at.latitude && from.at.longitude === to.at.longitude)
    return { by: 'same place', minutes: 0 };
  const roadKm = distanceKm(from.at, to.at) * rules.detour;
  return { by: 'estimate', minutes: drivingMinutes(roadKm, rules.bands) + rules.fixedMinutes, roadKm };
}

/** An estimate is said with its numbers. */
export function sayTravel(travel: Travel | null): string {
  if (travel === null) return 'travel unknown: one of the places has no position';
  switch (travel.by) {
    case 'same place':
      return 'no travel: the same place';
    case 'known time':
      return `${travel.minutes} min, a known time`;
    case 'estimate':
      return `about ${travel.minutes} min, estimated from ${travel.roadKm.toFixed(1)} km by road`;
  }
}

const MOST_MINUTES = 240;

/** Refused: a detour below 1, bands that do not rise or have no last one, speeds and fixed minutes that cannot be. */
export function checkTravelRules({ detour, bands, fixedMinutes }: TravelRules): Refusal[] {
  const found: Refusal[] = [];
  if (!(detour >= 1 && detour <= 5))
    found.push(refusal('invalid', 'No road is shorter than the straight line: from 1 to 5.', 'detour'));
  if (!Number.isInteger(fixedMinutes) || fixedMinutes < 0 || fixedMinutes > MOST_MINUTES)
    found.push(refusal('invalid', `Write whole minutes from 0 to ${MOST_MINUTES}.`, 'fixedMinutes'));
  if (bands.length === 0) return [...found, refusal('missing', 'Say at which speed one drives.', 'bands')];
  bands.forEach(({ belowKm, kmPerHour }, i) => {
    const last = i === bands.length - 1;
    const before = bands[i - 1]?.belowKm ?? 0;
    if (!(kmPerHour >= 1 && kmPerHour <= 200))
      found.push(refusal('invalid', 'Write a speed from 1 to 200 km/h.', `bands.${i}.kmPerHour`));
    if (last && belowKm !== null)
      found.push(refusal('invalid', 'The last speed has no end: leave its distance empty.', `bands.${i}.belowKm`));
    if (!last && (belowKm === null || !(belowKm > before)))
      found.push(refusal('invalid', `Write a distance above ${before} km.`, `bands.${i}.belowKm`));
  });
  return found;
}
