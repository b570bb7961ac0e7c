// What floats over any page by a key: loaded before anybody asks for it, and what is typed until then is kept for it.
import { useCallback, useEffect, useState, type ComponentType } from 'react';
import type { FloatingProps, Room, TypedAhead } from './room.ts';

export type Floating = NonNullable<Room['floats']>;

const NOTHING: TypedAhead = { text: '', enter: null };

/** Keys pressed while `isAwaited` go nowhere else; Escape gives up. */
function useTypedAhead(isAwaited: boolean, giveUp: () => void) {
  const [typedAhead, setTypedAhead] = useState(NOTHING);
  useEffect(() => {
    if (!isAwaited) return;
    const keep = (event: KeyboardEvent): void => {
      if (event.ctrlKey || event.metaKey || event.altKey) return;
      event.preventDefault();
      event.stopImmediatePropagation();
      if (event.key === 'Escape') giveUp();
      else if (event.key === 'Enter')
        setTypedAhead((kept) => ({ ...kept, enter: event.shiftKey ? 'Shift+Enter' : 'Enter' }));
      else if (event.key === 'Backspace') setTypedAhead(({ text }) => ({ text: text.slice(0, -1), enter: null }));
      else if ([...event.key].length === 1) setTypedAhead(({ text }) => ({ text: text + event.key, enter: null }));
    };
    window.addEventListener('keydown', keep, { capture: true });
    return () => window.removeEventListener('keydown', keep, { capture: true });
  }, [isAwaited, giveUp]);
  return { typedAhead, forget: () => setTypedAhead(NOTHING) };
}

export function useFloating(rooms: readonly Room[]) {
  const [floating, setFloating] = useState<Floating | null>(null);
  const [loaded, setLoaded] = useState<ReadonlyMap<Floating, ComponentType<FloatingProps>>>(new Map());
  const close = useCallback(() => setFloating(null), []);
  const load = useCallback(
    (floats: Floating, failed: () => void) =>
      void floats.load().then((Part) => setLoaded((held) => new Map([...held, [floats, Part]])), failed),
    [],
  );
  useEffect(() => {
    // What does not arrive now is asked for again when somebody wants it.
    for (const { floats } of rooms) if (floats) load(floats, () => undefined);
  }, [rooms, load]);
  const Floats = (floating && loaded.get(floating)) ?? null;
  const { typedAhead, forget } = useTypedAhead(floating !== null && !Floats, close);
  return {
    Floats,
    typedAhead,
    float: (what: Floating): void => {
      forget();
      setFloating(what);
      if (!loaded.has(what)) load(what, close);
    },
    close,
  };
}
