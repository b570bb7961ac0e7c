// Today as it goes: where everybody is by what was said of their orders, and when each appointment is expected to begin and end.
import type { RotaAppointment, RotaPerson } from '#api/rota.ts';
import { distanceKm } from '#core/places/index.ts';
import { isFinished } from '#core/orders/index.ts';
import { expectedOn, type Expected, type Progress } from '#core/rota/index.ts';
import { sayKm } from '../parts/rings.tsx';
import { sayTime } from '../parts/words.ts';
import type { Zone } from '#core/time/index.ts';
import { dateOf, dayOf, type Rota } from './days.ts';

export function progressOf(a: Pick<RotaAppointment, 'orders'> | undefined): Progress {
  const orders = a?.orders ?? [];
  if (orders.some((o) => o.stage === 'on site')) return 'on site';
  return orders.every((o) => isFinished(o.stage)) ? 'over' : 'to come';
}

/** By the appointments that go otherwise than they are planned, from now on; of several who go, of who is there last. */
export function expectedToday(rota: Rota): ReadonlyMap<number, Expected> {
  const byId = new Map(rota.appointments.map((a) => [a.id, a]));
  const found = new Map<number, Expected>();
  for (const p of rota.people) {
    const today = dateOf(p, rota.now);
    if (!p.days.some((d) => d.date === today)) continue;
    for (const e of expectedOn(dayOf(rota, p, today), (id) => progressOf(byId.get(id)), rota.now, rota.roads)) {
      const [a, known] = [byId.get(e.id), found.get(e.id)];
      if (!a || (e.span.from <= a.from && e.span.to <= a.to)) continue;
      if (!known || e.span.from > known.span.from) found.set(e.id, e);
    }
  }
  return found;
}

const WHY = {
  'still at the one before': 'they are still at the one before',
  'not there yet': 'they should be there and are not yet',
} as const;

export function sayExpected(a: Pick<RotaAppointment, 'from' | 'to'>, { span, because }: Expected, zone: Zone): string {
  const late = Math.round((span.from - a.from) / 60_000);
  if (late <= 0) return `Expected to end ${sayTime(span.to, zone)}: it takes longer`;
  const why = because ? `: ${WHY[because]}` : '';
  return `Expected ${sayTime(span.from, zone)} to ${sayTime(span.to, zone)}, ${late} min late${why}`;
}

const placeOf = (a: RotaAppointment): string => a.orders[0]?.place.split(' · ')[0] ?? '';

/** Nearer than this somebody is there, as far as a phone can tell. */
const THERE_KM = 0.5;

/** How far from the nearest place of their day somebody last said to be; null: they did not say, or no place has a position. */
function seenNear(
  p: RotaPerson,
  own: readonly RotaAppointment[],
): { readonly km: number; readonly name: string } | null {
  const { seen } = p;
  if (!seen) return null;
  const known = [
    ...own.flatMap((a) => (a.spot.at ? [{ at: a.spot.at, name: placeOf(a) }] : [])),
    ...(p.start.at && p.depot && !p.start.key.startsWith('home') ? [{ at: p.start.at, name: p.depot }] : []),
  ];
  return known.map(({ at, name }) => ({ km: distanceKm(seen, at), name })).sort((a, b) => a.km - b.km)[0] ?? null;
}

/** Where somebody is today, by what was said of their orders and, where they allow it, where they did it; null: nothing was. */
export function whereOf(rota: Rota, p: RotaPerson, zone: Zone): string | null {
  const today = dateOf(p, rota.now);
  const own = rota.appointments.filter((a) => a.personIds.includes(p.id) && dateOf(p, a.from) === today);
  const there = own.find((a) => progressOf(a) === 'on site');
  if (there) {
    const km = p.seen && there.spot.at ? distanceKm(p.seen, there.spot.at) : 0;
    return km > THERE_KM ? `${sayKm(km)} off ${placeOf(there)}` : `at ${placeOf(there)}`;
  }
  const left = own.filter((a) => progressOf(a) === 'over').sort((a, b) => b.to - a.to)[0];
  if (left && (p.seen === null || p.seen.at <= left.to)) return `left ${placeOf(left)} ${sayTime(left.to, zone)}`;
  const near = seenNear(p, own);
  if (near && p.seen) return `${sayTime(p.seen.at, zone)}: ${sayKm(near.km)} from ${near.name}`;
  return left ? `left ${placeOf(left)} ${sayTime(left.to, zone)}` : null;
}
