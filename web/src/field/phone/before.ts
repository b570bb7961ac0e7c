// What a phone kept under an earlier version of Field, or an office of an earlier version gives: what came later is empty there.
import type { FieldDays, FieldOrder } from '#api/field.ts';
import type { Held } from './keep.ts';

type Van = NonNullable<FieldDays['van']>;
const LATER: Pick<FieldDays, 'pushKey'> = { pushKey: null };
const NO_VAN_ACTS: Pick<Van, 'came' | 'asked'> = { came: [], asked: [] };

export const daysAsNow = (days: FieldDays): FieldDays => ({
  ...{ ...LATER, ...days },
  person: { ...{ allowsPosition: false }, ...days.person },
  van: days.van && { ...NO_VAN_ACTS, ...days.van },
});

const NOTHING_MORE: Pick<FieldOrder, 'alsoHere' | 'comesTo'> = { alsoHere: [], comesTo: null };

export const orderAsNow = (order: FieldOrder): FieldOrder => ({
  ...NOTHING_MORE,
  ...order,
  machines: order.machines.map((m) => ({ ...{ parts: [] }, ...m })),
});

/** What is held, whatever version kept it. */
export const heldAsNow = (held: Held): Held => (held.days === null ? held : { ...held, days: daysAsNow(held.days) });
