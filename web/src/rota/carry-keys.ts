// What is carried, moved by keys: along the time, from person to person, to the next time that goes; Enter lets it go, Esc leaves it.
import { useEffect, useRef } from 'react';
import type { RotaPerson } from '#api/rota.ts';
import { instant, MINUTE, type Instant } from '#core/time/index.ts';
import type { GhostStore } from './carrying.ts';
import type { Ghost, Held, Rota } from './days.ts';

type With = {
  readonly rota: Rota | undefined;
  readonly store: GhostStore;
  readonly next: (p: RotaPerson, from: Instant) => Instant | null;
  readonly letGo: () => void;
  readonly drop: () => void;
};

const STEP_MINUTES = 15;
const FINE_MINUTES = 5;

/** Where a key moves it; null: it is none of these keys. */
function moved(key: string, isFine: boolean, ghost: Ghost, { rota, next }: With): Ghost | null {
  const people = rota?.people ?? [];
  const at = people.findIndex((p) => p.id === ghost.personId);
  const by = (minutes: number): Ghost => ({ ...ghost, from: instant(ghost.from + minutes * MINUTE) });
  const step = isFine ? FINE_MINUTES : STEP_MINUTES;
  const to = (i: number): Ghost => ({ ...ghost, personId: people[i]?.id ?? ghost.personId });
  switch (key) {
    case 'ArrowRight':
      return by(step);
    case 'ArrowLeft':
      return by(-step);
    case 'ArrowDown':
      return to(at + 1);
    case 'ArrowUp':
      return to(at - 1);
    case 'n': {
      const person = people[at];
      const from = person && next(person, instant(ghost.from + FINE_MINUTES * MINUTE));
      return from ? { ...ghost, from } : ghost;
    }
    default:
      return null;
  }
}

export function useCarryKeys(held: Held | null, given: With): void {
  const latest = useRef(given);
  useEffect(() => {
    latest.current = given;
  });
  useEffect(() => {
    if (!held) return;
    const press = (event: KeyboardEvent): void => {
      const { store, letGo, drop } = latest.current;
      const ghost = store.get();
      if (!ghost || event.ctrlKey || event.metaKey || event.altKey) return;
      const isEnd = event.key === 'Enter' || event.key === 'Escape';
      const next = isEnd ? null : moved(event.key, event.shiftKey, ghost, latest.current);
      if (!isEnd && !next) return;
      event.preventDefault();
      event.stopPropagation();
      if (event.key === 'Enter') letGo();
      else if (event.key === 'Escape') drop();
      else store.set(next);
    };
    // Before the page's own keys, which mean something else while nothing is carried.
    window.addEventListener('keydown', press, { capture: true });
    return () => window.removeEventListener('keydown', press, { capture: true });
  }, [held]);
}
