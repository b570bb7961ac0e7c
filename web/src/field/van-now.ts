// The van as it is with what was used here: what the phone holds of it, less the parts of acts that wait: used, or handed over.
import type { VanPart } from '#api/field.ts';
import { actsHere } from './held.ts';
import type { PhoneState } from './phone/phone.ts';

export function vanNow(state: PhoneState): VanPart[] {
  const { van } = state.days ?? {};
  if (!van) return [];
  const left = actsHere(state).flatMap(({ body }) => {
    if (body.kind === 'part' && body.storeId === van.id)
      return [{ partId: body.partId, thousandths: body.thousandths, serials: [body.serial] }];
    if (body.kind !== 'handed over') return [];
    return body.lines.map((l) => ({ ...l, serials: l.serials ?? [] }));
  });
  return van.parts.map((p) => {
    const own = left.filter((u) => u.partId === p.partId);
    const gone = own.reduce((sum, u) => sum + u.thousandths, 0);
    return {
      ...p,
      ...{ onHand: p.onHand - gone, free: Math.max(0, p.free - gone) },
      serials: p.serials.filter((s) => !own.some((u) => u.serials.includes(s))),
    };
  });
}

/** Parts of which number, name or a serial holds all the words. */
export function partsLike<P extends Pick<VanPart, 'number' | 'name' | 'serials'>>(
  parts: readonly P[],
  typed: string,
): readonly P[] {
  const words = typed
    .toLowerCase()
    .split(/\s+/)
    .filter((w) => w !== '');
  const text = (p: P): string => [p.number, p.name, ...p.serials].join(' ').toLowerCase();
  return parts.filter((p) => words.every((w) => text(p).includes(w)));
}
