// Choosing a part by a fragment of its number or name.
import type { PartOut } from '#api/stores.ts';
import { Choose, type Choice } from '../parts/choose.tsx';
import { storesApi } from './endpoints.ts';

const SHOWN = '20';
export type ChosenPart = Choice & { readonly part: PartOut };

export function ChoosePart({
  label = 'Part',
  chosen,
  onChoose,
  error,
}: {
  label?: string;
  chosen: ChosenPart | null;
  onChoose: (part: ChosenPart | null) => void;
  error?: string | undefined;
}) {
  const known = new Map<number, PartOut>();
  return (
    <Choose
      label={label}
      chosen={chosen}
      error={error}
      autoFocus={label === 'Part'}
      firstIsMeant
      onChoose={(choice) => {
        const part = choice && known.get(choice.id);
        onChoose(part ? { ...choice, part } : null);
      }}
      useFind={(typed, isOpen) => {
        const { currentData, data, isFetching } = storesApi.useListPartsQuery(
          { query: { limit: SHOWN, ...(typed && { q: typed }) } },
          { skip: !isOpen },
        );
        const found = currentData ?? data;
        for (const part of found?.items ?? []) known.set(part.id, part);
        return {
          choices: (found?.items ?? []).map((p) => ({ id: p.id, mark: p.number, name: p.name, beside: p.unit })),
          more: (found?.next ?? null) !== null,
          isLooking: isFetching,
        };
      }}
    />
  );
}

type Supplier = { readonly id: number; readonly name: string };

export function ChooseSupplier({
  chosen,
  onChoose,
  error,
}: {
  chosen: Supplier | null;
  onChoose: (supplier: Supplier | null) => void;
  error?: string | undefined;
}) {
  return (
    <Choose
      label="Supplier"
      chosen={chosen}
      error={error}
      firstIsMeant
      onChoose={(choice) => onChoose(choice && { id: choice.id, name: choice.name })}
      useFind={(typed, isOpen) => {
        const { currentData, data, isFetching } = storesApi.useListSuppliersQuery(
          { query: { limit: '20', ...(typed && { q: typed }) } },
          { skip: !isOpen },
        );
        const found = currentData ?? data;
        return {
          choices: (found?.items ?? []).map((s) => ({ id: s.id, name: s.name, beside: s.email })),
          more: (found?.next ?? null) !== null,
          isLooking: isFetching,
        };
      }}
    />
  );
}
