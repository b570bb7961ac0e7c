// Keys: `g` then a letter enters a room, `/` finds, `?` lists the keys, j and k walk the list, Enter opens.
import { useEffect, useLayoutEffect, useRef } from 'react';
import { tinykeys } from 'tinykeys';
import type { AnyContract } from '#api/contract.ts';
import type { Room } from './room.ts';

/** Not while somebody types, nor while something floats over the page. */
function isElsewhere(event: KeyboardEvent): boolean {
  const { target } = event;
  const typing =
    target instanceof HTMLElement &&
    (target.isContentEditable || ['INPUT', 'TEXTAREA', 'SELECT'].includes(target.tagName));
  return typing || event.isComposing || document.querySelector('[role="dialog"]') !== null;
}

type Bindings = Readonly<Record<string, (event: KeyboardEvent) => void>>;

/** On some keyboards `/` and `?` are reached with Shift, on others without. */
const withOrWithoutShift = (key: string): string => (/^[a-z]+$/i.test(key) ? key : `[Shift]+${key}`);

function useKeys(bindings: Bindings): void {
  const latest = useRef(bindings);
  useLayoutEffect(() => {
    latest.current = bindings;
  });
  const names = Object.keys(bindings).join('\n');
  // Heard from the moment the page is seen.
  useLayoutEffect(() => {
    let stop = (): void => undefined;
    // Begun anew with each act: the key that ends one sequence would leave others half pressed, and their next first key unheard.
    const listen = (): void => {
      stop();
      const act = (name: string) => (event: KeyboardEvent) => {
        listen();
        latest.current[name]?.(event);
      };
      stop = tinykeys(window, Object.fromEntries(names.split('\n').map((name) => [name, act(name)])), {
        timeout: 1500,
        ignore: isElsewhere,
      });
    };
    listen();
    return () => stop();
  }, [names]);
}

export function useShellKeys(
  rooms: readonly Room[],
  may: (contract: Pick<AnyContract, 'may'>) => boolean,
  act: {
    go: (path: string) => void;
    float: (what: NonNullable<Room['floats']>) => void;
    help: () => void;
    back: () => void;
  },
): void {
  const taken =
    (what: () => void) =>
    (event: KeyboardEvent): void => {
      event.preventDefault();
      what();
    };
  useKeys({
    ...Object.fromEntries(
      rooms.flatMap(({ rail }) =>
        rail ? [[`g ${withOrWithoutShift(rail.key)}`, taken(() => act.go(rail.path))] as const] : [],
      ),
    ),
    ...Object.fromEntries(
      rooms.flatMap(({ floats }) =>
        floats ? [[withOrWithoutShift(floats.key), taken(() => act.float(floats))] as const] : [],
      ),
    ),
    ...Object.fromEntries(
      rooms.flatMap(({ keys }) =>
        (keys ?? []).filter((k) => may(k.shown)).map((k) => [k.key, taken(() => act.go(k.path))] as const),
      ),
    ),
    [withOrWithoutShift('?')]: taken(act.help),
    Escape: taken(act.back),
  });
}

/** Single letters that act on what is chosen; they do nothing where there is nothing to act on. */
export function useActKeys(acts: Readonly<Record<string, (() => void) | null>>): void {
  useKeys(
    Object.fromEntries(
      Object.entries(acts).map(([key, act]) => [
        key,
        (event: KeyboardEvent) => {
          if (!act) return;
          event.preventDefault();
          act();
        },
      ]),
    ),
  );
}

/** j and k move through `count` rows, Enter opens the chosen one. */
export function useListKeys(
  count: number,
  chosen: number,
  choose: (index: number) => void,
  open?: (index: number) => void,
): void {
  // Where the keys stand: ahead of what is drawn while somebody presses faster than that.
  const at = useRef(chosen);
  useEffect(() => {
    at.current = chosen;
  }, [chosen, count]);
  const go = (index: number): void => {
    if (count === 0) return;
    at.current = Math.min(count - 1, Math.max(0, index));
    choose(at.current);
  };
  useKeys({
    j: () => go(at.current + 1),
    k: () => go(at.current - 1),
    Enter: ({ target }) => {
      const presses = target instanceof HTMLButtonElement || target instanceof HTMLAnchorElement;
      if (open && !presses && at.current >= 0 && at.current < count) open(at.current);
    },
  });
}
