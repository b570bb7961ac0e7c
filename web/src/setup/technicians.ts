// Our technicians by a part of the name, for choosing one.
import type { Found } from '../parts/choose.tsx';
import { setupApi } from './endpoints.ts';

export function useTechnicians(typed: string): Found {
  const { data: reference, isLoading } = setupApi.useReadReferenceQuery();
  const wanted = typed.toLocaleLowerCase();
  const choices = (reference?.technicians ?? []).filter((t) => t.name.toLocaleLowerCase().includes(wanted));
  return { choices, more: false, isLooking: isLoading };
}
