// Keys: `g` then a letter enters a room, `/` finds, `?` lists the keys, j and k walk the list, Enter opens.
import { useEffect, useRef } from 'react';

export const ROOMS = [
  ['Today', '/', 't'],
  ['Register', '/register', 'r'],
  ['Agreements', '/agreements', 'a'],
  ['Upkeep', '/upkeep', 'u'],
  ['Signals', '/signals', 's'],
  ['Orders', '/orders', 'o'],
  ['Standing', '/standing', 'n'],
  ['Setup', '/setup', ','],
] as const;

function typing(target: EventTarget | null): boolean {
  return (
    target instanceof HTMLElement &&
    (target.isContentEditable || ['INPUT', 'TEXTAREA', 'SELECT'].includes(target.tagName))
  );
}

export function useShellKeys(act: {
  go: (path: string) => void;
  find: () => void;
  help: () => void;
  back: () => void;
}): void {
  const latest = useRef(act);
  useEffect(() => {
    latest.current = act;
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
      const room = Date.now() - awaiting < 1500 ? ROOMS.find(([, , key]) => key === event.key) : undefined;
      awaiting = event.key === 'g' ? Date.now() : 0;
      if (room) latest.current.go(room[1]);
      else if (event.key === '/') latest.current.find();
      else if (event.key === '?') latest.current.help();
      else if (event.key === 'Escape') latest.current.back();
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
