// An instant: a point on the world's time line, as UTC milliseconds. Events and clocks are made of instants.

declare const instantBrand: unique symbol;
/** Milliseconds since 1970-01-01T00:00Z. */
export type Instant = number & { readonly [instantBrand]: true };

/** A span that includes its start and excludes its end. */
export type InstantSpan = { readonly from: Instant; readonly to: Instant };

export const MINUTE = 60_000;
export const HOUR = 60 * MINUTE;
export const DAY = 24 * HOUR;

export function instant(milliseconds: number): Instant {
  return milliseconds as Instant;
}

const isoInstant = /^(\d{4}-\d{2}-\d{2})T(\d{2}):(\d{2})(?::(\d{2})(?:\.(\d{1,3})\d*)?)?(Z|[+-]\d{2}:\d{2})$/;

/** Reads an ISO 8601 date-time that names its offset; without an offset, or impossible, it gives null. */
export function parseInstant(text: string): Instant | null {
  const found = isoInstant.exec(text);
  if (!found || Number(found[2]) > 23 || Number(found[3]) > 59) return null;
  const midnight = new Date(`${found[1]}T00:00:00Z`);
  if (Number.isNaN(midnight.getTime()) || midnight.toISOString().slice(0, 10) !== found[1]) return null;
  const value = Date.parse(text);
  return Number.isNaN(value) ? null : (value as Instant);
}

export function asInstant(text: string): Instant {
  const value = parseInstant(text);
  if (value === null) throw new Error(`not an instant: ${text}`);
  return value;
}

export function formatInstant(at: Instant): string {
  return new Date(at).toISOString();
}
