// Availability: how much of the agreed service time machines were up.
import type { WorkingTime } from '../calendars/index.ts';
import type { Instant } from '../time/index.ts';

/** A time in which a machine was down; null while it is still. */
export type Outage = { readonly from: Instant; readonly to: Instant | null };

/** Milliseconds of service time inside [from, to) in which a machine was down; outages that overlap count once. */
export function downtimeWithin(outages: readonly Outage[], service: WorkingTime, from: Instant, to: Instant): number {
  const inside = outages
    .map((o) => ({ from: o.from > from ? o.from : from, to: o.to === null || o.to > to ? to : o.to }))
    .filter((o) => o.from < o.to)
    .sort((a, b) => a.from - b.from);
  let down = 0;
  let until = from;
  for (const outage of inside) {
    const begin = outage.from > until ? outage.from : until;
    if (outage.to <= begin) continue;
    down += service.between(begin, outage.to);
    until = outage.to;
  }
  return down;
}

/**
 * (agreed service time − downtime inside it) / agreed service time, over all machines alike; null without service time.
 * Source: domain, Standing; IEC 60050-192 (steady state availability = MTBF / (MTBF + MTTR)).
 */
export function availabilityOf(machines: number, serviceMs: number, downtimeMs: number): number | null {
  const agreed = machines * serviceMs;
  return agreed <= 0 ? null : (agreed - downtimeMs) / agreed;
}
