// People of the house by a part of the name, for choosing one: technicians, or anybody who sees to orders.
import type { Found } from '../parts/choose.tsx';
import { setupApi } from './endpoints.ts';

function usePeopleOf(list: 'technicians' | 'people', typed: string): Found {
  const { data: reference, isLoading } = setupApi.useReadReferenceQuery();
  const wanted = typed.toLocaleLowerCase();
  const choices = (reference?.[list] ?? []).filter((t) => t.name.toLocaleLowerCase().includes(wanted));
  return { choices, more: false, isLooking: isLoading };
}

export const useTechnicians = (typed: string): Found => usePeopleOf('technicians', typed);
export const usePeople = (typed: string): Found => usePeopleOf('people', typed);
