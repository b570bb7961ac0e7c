// What is carried over the rota and where it is: moved by the pointer or by keys, drawn by itself so that nothing else is drawn anew.
import { useState, useSyncExternalStore } from 'react';
import type { Ghost } from './days.ts';

export type GhostStore = {
  readonly get: () => Ghost | null;
  readonly set: (next: Ghost | null) => void;
  readonly subscribe: (heard: () => void) => () => void;
};

function ghostStore(): GhostStore {
  let now: Ghost | null = null;
  const listeners = new Set<() => void>();
  return {
    get: () => now,
    set(next) {
      if (now?.personId === next?.personId && now?.from === next?.from) return;
      now = next;
      for (const heard of listeners) heard();
    },
    subscribe(heard) {
      listeners.add(heard);
      return () => listeners.delete(heard);
    },
  };
}

export const useGhostStore = (): GhostStore => useState(ghostStore)[0];
export const useGhost = (store: GhostStore): Ghost | null => useSyncExternalStore(store.subscribe, store.get);
