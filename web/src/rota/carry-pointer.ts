// What is carried by the pointer: taken up once it has moved a little, followed over the plane, let go where it is.
import { useRef, type PointerEvent, type RefObject } from 'react';
import type { Instant } from '#core/time/index.ts';
import type { Axis } from './axis.ts';
import type { GhostStore } from './carrying.ts';
import type { Held } from './days.ts';

type Given = {
  readonly axis: Axis;
  readonly turned: boolean;
  readonly store: GhostStore;
  /** Whose row lies at a place across the time; null: nobody's. */
  readonly rowAt: (across: number) => number | null;
  readonly stepMinutes: number;
  readonly mayCarry: boolean;
  readonly onHold: (held: Held) => void;
  readonly onLetGo: () => void;
};

type Carried = { readonly x: number; readonly y: number; readonly held: Held; readonly offset: number; begun: boolean };
/** Fewer pixels are a press and no carrying. */
const BEGUN_AFTER = 5;

export function useCarryPointer(given: Given): {
  planeRef: RefObject<HTMLDivElement | null>;
  grab: (held: Held, from: Instant | null, event: PointerEvent) => void;
  move: (event: PointerEvent) => void;
  end: () => void;
} {
  const { axis, turned, store, rowAt, stepMinutes, mayCarry, onHold, onLetGo } = given;
  const planeRef = useRef<HTMLDivElement>(null);
  const carried = useRef<Carried | null>(null);
  /** Along the time and across it. */
  const placeOf = (event: PointerEvent): readonly [number, number] | null => {
    const box = planeRef.current?.getBoundingClientRect();
    if (!box) return null;
    const [x, y] = [event.clientX - box.left, event.clientY - box.top];
    return turned ? [y, x] : [x, y];
  };
  const grab = (held: Held, from: Instant | null, event: PointerEvent): void => {
    if (!mayCarry || event.button !== 0) return;
    const along = placeOf(event)?.[0] ?? 0;
    const offset = from === null ? 0 : Math.max(0, along - axis.place(from));
    carried.current = { x: event.clientX, y: event.clientY, held, offset, begun: false };
  };
  const move = (event: PointerEvent): void => {
    const now = carried.current;
    if (!now) return;
    if (!now.begun) {
      if (Math.hypot(event.clientX - now.x, event.clientY - now.y) < BEGUN_AFTER) return;
      now.begun = true;
      planeRef.current?.setPointerCapture(event.pointerId);
      onHold(now.held);
    }
    const place = placeOf(event);
    if (!place) return;
    const personId = rowAt(place[1]);
    store.set(personId === null ? null : { personId, from: axis.at(place[0] - now.offset, stepMinutes) });
  };
  const end = (): void => {
    const was = carried.current;
    carried.current = null;
    if (was?.begun) onLetGo();
  };
  return { planeRef, grab, move, end };
}
