// Parts with a file of their own, so that the first page does not wait for them.
import { lazy, useEffect, type ComponentType, type LazyExoticComponent } from 'react';
import type { Loaded } from './room.ts';

export type Later<Props> = {
  readonly Part: LazyExoticComponent<ComponentType<Props>>;
  /** Fetched without being shown; what fails now is fetched again when it is shown. */
  readonly ahead: () => void;
};

export const later = <Props>(load: Loaded<Props>): Later<Props> => ({
  Part: lazy(async () => ({ default: await load() })),
  ahead: () => void load().catch(() => undefined),
});

/** Fetched once the page stands, before anybody asks for it, so that no key pressed meanwhile is lost. */
export function useAhead<Props>({ ahead }: Later<Props>): void {
  useEffect(ahead, [ahead]);
}
