// Positions of sites: great-circle distance and GeoJSON.

export type Position = { readonly latitude: number; readonly longitude: number };

/** Mean earth radius in kilometres (IUGG). */
export const EARTH_KM = 6371.0088;

/** Great-circle distance in kilometres (haversine formula). */
export function distanceKm(a: Position, b: Position, radiusKm = EARTH_KM): number {
  const radians = (degrees: number): number => (degrees * Math.PI) / 180;
  const half = (degrees: number): number => Math.sin(radians(degrees) / 2) ** 2;
  const h =
    half(b.latitude - a.latitude) +
    Math.cos(radians(a.latitude)) * Math.cos(radians(b.latitude)) * half(b.longitude - a.longitude);
  return 2 * radiusKm * Math.asin(Math.min(1, Math.sqrt(h)));
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
