// A warranty as the catalogue promises it for a model.
import { addDays, addMonths, type LocalDate } from '../time/index.ts';

export type ModelWarranty = {
  readonly warrantyMonths: number;
  /** Shares it bears, in percent. */
  readonly warrantyLabour: number;
  readonly warrantyParts: number;
  readonly warrantyTravel: number;
  readonly warrantyVisits: number;
};

/** What a machine of the model gets from the day it begins to work, its last day included; nothing where the model promises none. */
export function warrantyOf(model: ModelWarranty | undefined, from: LocalDate) {
  if (!model || model.warrantyMonths <= 0) return {};
  const { warrantyMonths, warrantyLabour, warrantyParts, warrantyTravel, warrantyVisits } = model;
  return {
    warrantyFrom: from,
    warrantyUntil: addDays(addMonths(from, warrantyMonths), -1),
    warrantyLabour,
    warrantyParts,
    warrantyTravel,
    warrantyVisits,
  };
}
