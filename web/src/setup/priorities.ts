// What the provider calls its priorities, as they are chosen.
import { PRIORITIES, USUAL_PRIORITIES, type Priority } from '#core/service-levels/index.ts';
import { setupApi } from './endpoints.ts';

const NONE: readonly string[] = USUAL_PRIORITIES;

export function usePriorities(): readonly Priority[] {
  return PRIORITIES.slice(0, usePriorityNames().length);
}

export function usePriorityNames(): readonly string[] {
  return setupApi.useReadReferenceQuery().data?.priorities ?? NONE;
}

/** "1: down, stock or patients at risk". */
export function usePriorityChoices(): readonly (readonly [Priority, string])[] {
  const names = usePriorityNames();
  return usePriorities().map((p) => [p, `${p}: ${names[p - 1] ?? ''}`] as const);
}
