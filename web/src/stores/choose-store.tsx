// Choosing a store by any part of its name, its depot or whose van it is.
import type { StoreOut } from '#api/stock.ts';
import { Choose } from '../parts/choose.tsx';
import { Wire } from '../parts/wire-form.tsx';

const SHOWN = 20;

export const storesNamed = (stores: readonly StoreOut[], typed: string): StoreOut[] => {
  const words = typed.toLowerCase().split(/\s+/);
  return stores.filter((s) => {
    const known = `${s.name} ${s.depot.name} ${s.person?.name ?? ''}`.toLowerCase();
    return words.every((w) => known.includes(w));
  });
};

/** The field of a form that holds a store’s id; NaN: none is chosen yet. */
export const WireStore = ({ name, label, stores }: { name: string; label: string; stores: readonly StoreOut[] }) => (
  <Wire<number> name={name}>
    {({ value, change, error }) => (
      <Choose
        label={label}
        chosen={stores.find((s) => s.id === value) ?? null}
        error={error}
        firstIsMeant
        onChoose={(choice) => change(choice?.id ?? NaN)}
        useFind={(typed) => {
          const found = storesNamed(stores, typed);
          const choices = found.slice(0, SHOWN).map((s) => ({
            ...{ id: s.id, name: s.name },
            beside: [s.kind, s.depot.name, s.person?.name].filter((x) => x).join(', '),
          }));
          return { choices, more: found.length > SHOWN, isLooking: false };
        }}
      />
    )}
  </Wire>
);
