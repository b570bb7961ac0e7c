// Keys: `g` then a letter enters a room, `/` finds, `?` lists the keys, j and k walk the list, Enter opens.
import { useEffect, useRef } from 'react';
import type { Room } from './room.ts';

function typing(target: EventTarget | null): boolean {
  return (
    target instanceof HTMLElement &&
    (target.isContentEditable || ['INPUT', 'TEXTAREA', 'SELECT'].includes(target.tagName))
  );
}

export function useShellKeys(
  rooms: readonly Room[],
  act: {
    go: (path: string) => void;
    float: (what: NonNullable<Room['floats']>) => void;
    help: () => void;
    back: () => void;
  },
): void {
  const latest = useRef({ rooms, act });
  useEffect(() => {
    latest.current = { rooms, act };
  });
  useEffect(() => {
    let awaiting = 0;
    const onKey = (event: KeyboardEvent): void => {
      if (
        typing(event.target) ||
        event.ctrlKey ||
        event.metaKey ||
        event.altKey ||
        document.querySelector('dialog[open]')
      )
        return;
      const { rooms, act } = latest.current;
      const entered =
        Date.now() - awaiting < 1500 ? rooms.find(({ rail }) => rail?.key === event.key)?.rail : undefined;
      const floating = rooms.find(({ floats }) => floats?.key === event.key)?.floats;
      awaiting = event.key === 'g' ? Date.now() : 0;
      if (entered) act.go(entered.path);
      else if (floating) act.float(floating);
      else if (event.key === '?') act.help();
      else if (event.key === 'Escape') act.back();
      else return;
      event.preventDefault();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
}

/** j and k move through `count` rows, Enter opens the chosen one. */
export function useListKeys(
  count: number,
  chosen: number,
  choose: (index: number) => void,
  open?: (index: number) => void,
): void {
  const latest = useRef({ count, choose, open });
  // Where the keys stand: ahead of what is drawn while somebody presses faster than that.
  const at = useRef(chosen);
  useEffect(() => {
    latest.current = { count, choose, open };
  });
  useEffect(() => {
    at.current = chosen;
  }, [chosen, count]);
  useEffect(() => {
    const onKey = (event: KeyboardEvent): void => {
      const now = latest.current;
      const go = (index: number): void => {
        at.current = index;
        now.choose(index);
      };
      if (
        typing(event.target) ||
        event.ctrlKey ||
        event.metaKey ||
        event.altKey ||
        document.querySelector('dialog[open]') ||
        now.count === 0
      )
        return;
      if (event.key === 'j') go(Math.min(now.count - 1, at.current + 1));
      else if (event.key === 'k') go(Math.max(0, at.current - 1));
      else if (
        event.key === 'Enter' &&
        now.open &&
        at.current >= 0 &&
        !(event.target instanceof HTMLButtonElement || event.target instanceof HTMLAnchorElement)
      )
        now.open(at.current);
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
}
