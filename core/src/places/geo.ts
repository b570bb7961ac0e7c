// Positions of sites: great-circle distance and GeoJSON.

export type Position = { readonly latitude: number; readonly longitude: number };

/** Mean earth radius in kilometres (IUGG). */
export const EARTH_KM = 6371.0088;

const radians = (degrees: number): number => (degrees * Math.PI) / 180;

/**
 * Great-circle distance in kilometres. By the tangent of the angle between the two points, which stays exact for those that lie next
 * to each other and for those at opposite ends of the earth, where the haversine formula loses half of its digits.
 */
export function distanceKm(a: Position, b: Position, radiusKm = EARTH_KM): number {
  const [sinA, cosA] = [Math.sin(radians(a.latitude)), Math.cos(radians(a.latitude))];
  const [sinB, cosB] = [Math.sin(radians(b.latitude)), Math.cos(radians(b.latitude))];
  const apart = radians(b.longitude - a.longitude);
  const across = Math.hypot(cosB * Math.sin(apart), cosA * sinB - sinA * cosB * Math.cos(apart));
  return radiusKm * Math.atan2(across, sinA * sinB + cosA * cosB * Math.cos(apart));
}

/** Sites as a GeoJSON feature collection (RFC 7946: longitude first). */
export function toGeoJson<P extends object>(sites: readonly (Position & { readonly properties: P })[]) {
  return {
    type: 'FeatureCollection' as const,
    features: sites.map((s) => ({
      type: 'Feature' as const,
      geometry: { type: 'Point' as const, coordinates: [s.longitude, s.latitude] as const },
      properties: s.properties,
    })),
  };
}
