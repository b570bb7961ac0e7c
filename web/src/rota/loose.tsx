// Loose work on the time line: what nobody is planned for hangs above the people at its latest start, so that now moving towards it is
// the urgency.
import type { PointerEvent } from 'react';
import type { LooseOrder } from '#api/rota.ts';
import { MINUTE, type Instant, type Zone } from '#core/time/index.ts';
import { sayMinutes, sayMoment } from '../parts/words.ts';
import type { Axis } from './axis.ts';
import { lanesOf, put, type Plane } from './plane.ts';
import { sayWaits } from './waits.ts';

const LANES = 3;
export const LOOSE_ROW = 27;
const LETTER = 6.6;

type Hung = {
  readonly of: LooseOrder;
  readonly at: number;
  readonly a: number;
  readonly b: number;
  readonly lane: number;
};

export type Hanging = {
  readonly hung: readonly Hung[];
  readonly lanes: number;
  /** Not drawn: the latest start has gone by before the axis, comes after it, is none, or there is no room. */
  readonly before: number;
  readonly after: number;
  readonly unbound: number;
  readonly more: number;
};

/** Where each hangs; what does not fit is counted, never left out unsaid. */
export function hang(items: readonly LooseOrder[], axis: Axis, turned: boolean): Hanging {
  let [before, after, unbound] = [0, 0, 0];
  const seen: { of: LooseOrder; at: number; a: number; b: number }[] = [];
  for (const of of items) {
    if (of.latestStart === null) unbound += 1;
    else if (of.latestStart < axis.from) before += 1;
    else if (of.latestStart >= axis.to) after += 1;
    else {
      const at = axis.place(of.latestStart);
      const wanted = turned ? 40 : Math.max(60, Math.min(190, of.title.length * LETTER + 16), of.minutes * axis.scale);
      const a = Math.max(0, Math.min(at, axis.length - wanted));
      seen.push({ of, at, a, b: a + wanted });
    }
  }
  seen.sort((x, y) => x.a - y.a);
  const lanes = lanesOf(
    seen.map(({ a, b }) => ({ a, b: b + 4 })),
    LANES,
  );
  const hung = seen.flatMap((s, i) => ((lanes[i] ?? -1) < 0 ? [] : [{ ...s, lane: lanes[i] as number }]));
  return {
    hung,
    lanes: Math.max(1, ...hung.map((h) => h.lane + 1)),
    before,
    after,
    unbound,
    more: seen.length - hung.length,
  };
}

export const toneOf = ({ latestStart }: LooseOrder, now: Instant): string =>
  latestStart === null
    ? 'text-none'
    : latestStart < now
      ? 'text-missed'
      : latestStart < now + 60 * MINUTE
        ? 'text-short'
        : 'text-enough';

export const sayLoose = (of: LooseOrder, now: Instant, zone: Zone): string =>
  [
    of.title,
    of.place.split(' · ')[0],
    sayMinutes(of.minutes),
    of.latestStart === null ? 'no promise' : `leave by ${sayMoment(of.latestStart, now, zone)}`,
    sayWaits(of),
  ]
    .filter(Boolean)
    .join(', ');

type Props = {
  readonly hanging: Hanging;
  readonly plane: Plane;
  readonly now: Instant;
  readonly zone: Zone;
  readonly chosen: number | null;
  readonly onChoose: (of: LooseOrder) => void;
  readonly onGrab: (of: LooseOrder, event: PointerEvent) => void;
};

export function LooseStrip({ hanging, plane, now, zone, chosen, onChoose, onGrab }: Props) {
  return hanging.hung.map(({ of, at, a, b, lane }) => {
    const across = lane * (plane.turned ? 130 : LOOSE_ROW);
    const size = plane.turned ? 126 : LOOSE_ROW - 4;
    return (
      <div key={of.orderId}>
        <svg
          className={`absolute ${toneOf(of, now)}`}
          style={put(plane, at - 4, at + 4, across - 1, across + 6)}
          viewBox="0 0 8 7"
          aria-hidden
        >
          <path d={plane.turned ? 'M0 0V7L7 3.5Z' : 'M0 0H8L4 7Z'} fill="currentColor" />
        </svg>
        <button
          type="button"
          className={`rota-loose ${chosen === of.orderId ? 'is-chosen' : ''}`}
          style={put(plane, a, b, across + 5, across + size)}
          title={sayLoose(of, now, zone)}
          aria-label={sayLoose(of, now, zone)}
          aria-pressed={chosen === of.orderId}
          onClick={() => onChoose(of)}
          onPointerDown={(event) => onGrab(of, event)}
        >
          <span className="overflow-hidden font-semibold text-ellipsis whitespace-nowrap">{of.title}</span>
        </button>
      </div>
    );
  });
}
