// What floats over any page by a key: loaded before anybody asks for it, and what is typed until then is kept for it.
import { useCallback, useEffect, useLayoutEffect, useRef, useState, type ComponentType } from 'react';
import type { FloatingProps, Room, TypedAhead } from './room.ts';

export type Floating = NonNullable<Room['floats']>;

const NOTHING: TypedAhead = { text: '', enter: null };

const TYPED_IN = 'input, textarea, select';

/** Whether what floats has the keys: its field, or what there is where it has none. */
function hasKeys(): boolean {
  const dialog = document.activeElement?.closest('[role="dialog"]');
  return !!dialog && (document.activeElement?.matches(TYPED_IN) || !dialog.querySelector(TYPED_IN));
}

/** The key pressed after what was typed so far. */
function typedOn({ text }: TypedAhead, { key, shiftKey }: KeyboardEvent): TypedAhead {
  if (key === 'Enter') return { text, enter: shiftKey ? 'Shift+Enter' : 'Enter' };
  if (key === 'Backspace') return { text: text.slice(0, -1), enter: null };
  return [...key].length === 1 ? { text: text + key, enter: null } : { text, enter: null };
}

/**
 * From `begin` on, keys go nowhere but to what is awaited, until that has them itself: also those pressed before anything was drawn,
 * or between its drawing and the first one its field gets. Escape gives up.
 */
function useTypedAhead(giveUp: () => void) {
  const [typedAhead, setTypedAhead] = useState(NOTHING);
  const awaited = useRef<TypedAhead | null>(null);
  useLayoutEffect(() => {
    const keep = (event: KeyboardEvent): void => {
      if (awaited.current === null || event.ctrlKey || event.metaKey || event.altKey || event.key === 'Shift') return;
      if (hasKeys()) {
        awaited.current = null;
        return;
      }
      event.preventDefault();
      event.stopImmediatePropagation();
      if (event.key === 'Escape') {
        awaited.current = null;
        giveUp();
      } else setTypedAhead((awaited.current = typedOn(awaited.current, event)));
    };
    window.addEventListener('keydown', keep, { capture: true });
    return () => window.removeEventListener('keydown', keep, { capture: true });
  }, [giveUp]);
  const begin = (): void => setTypedAhead((awaited.current = NOTHING));
  const end = useCallback((): void => void (awaited.current = null), []);
  return { typedAhead, begin, end };
}

export function useFloating(rooms: readonly Room[]) {
  const [floating, setFloating] = useState<Floating | null>(null);
  const [loaded, setLoaded] = useState<ReadonlyMap<Floating, ComponentType<FloatingProps>>>(new Map());
  const giveUp = useCallback(() => setFloating(null), []);
  const { typedAhead, begin, end } = useTypedAhead(giveUp);
  const close = useCallback(() => {
    end();
    setFloating(null);
  }, [end]);
  const load = useCallback(
    (floats: Floating, failed: () => void) =>
      // What is there stays: another one in its place would lose what was typed into it meanwhile.
      void floats
        .load()
        .then((Part) => setLoaded((held) => (held.has(floats) ? held : new Map([...held, [floats, Part]]))), failed),
    [],
  );
  useEffect(() => {
    // What does not arrive now is asked for again when somebody wants it.
    for (const { floats } of rooms) if (floats) load(floats, () => undefined);
  }, [rooms, load]);
  const Floats = (floating && loaded.get(floating)) ?? null;
  return {
    Floats,
    typedAhead,
    float: (what: Floating): void => {
      begin();
      setFloating(what);
      if (!loaded.has(what)) load(what, close);
    },
    close,
  };
}
