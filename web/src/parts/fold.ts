// Rows that say the same, as one that opens, so that what differs is seen.
import { useState } from 'react';

export type Fold<T> = { readonly key: string; readonly rows: readonly T[] };

/** Groups rows by what they say, in the order of their first; a row that says something of its own is a group of one. */
export function foldAlike<T>(rows: readonly T[], says: (row: T) => string): Fold<T>[] {
  const folds = new Map<string, T[]>();
  for (const row of rows) {
    const key = says(row);
    const alike = folds.get(key);
    if (alike) alike.push(row);
    else folds.set(key, [row]);
  }
  return [...folds].map(([key, alike]) => ({ key, rows: alike }));
}

/** Which folds stand open. */
export function useOpened(): { readonly isOpen: (key: string) => boolean; readonly toggle: (key: string) => void } {
  const [opened, setOpened] = useState<ReadonlySet<string>>(new Set());
  return {
    isOpen: (key) => opened.has(key),
    toggle: (key) => setOpened(new Set(opened.has(key) ? [...opened].filter((k) => k !== key) : [...opened, key])),
  };
}
