// Where a used part comes from: the stores in which some of it lies; what is held for the order is meant first, then the own van.
import { sayQuantity } from '#core/stores/index.ts';
import { WireSelect } from '../parts/wire-fields.tsx';
import { useReader } from '../shell/reader.tsx';
import { storesApi } from './endpoints.ts';

export type FromStores = {
  readonly options: readonly (readonly [storeId: number | null, says: string])[];
  /** Where it is taken from unless somebody says otherwise. */
  readonly meant: number | null;
};

/** Nothing is asked before a part is chosen. */
export function useFromStores(partId: number | null, orderId: number, lineId: number): FromStores {
  const reader = useReader();
  const { currentData: stock } = storesApi.useReadPartStockQuery(
    { params: { id: String(partId) } },
    { skip: partId === null },
  );
  const { data: asked } = storesApi.useReadNeedsQuery({ params: { id: String(orderId) } });
  const holds = asked?.needs.find((n) => n.lineId === lineId && n.part.id === partId)?.holds ?? [];
  const lying = (stock?.stores ?? []).filter((s) => s.onHand > 0 && s.kind !== 'quarantine');
  const own = lying.find((s) => s.person?.id === reader.id && s.free > 0);
  const heldAt = (id: number): number => holds.find((h) => h.store.id === id)?.thousandths ?? 0;
  return {
    options: [
      [null, 'none of our stores'] as const,
      ...lying.map((s) => {
        const held = heldAt(s.store.id);
        const said = held > 0 ? `${sayQuantity(held)} held for it` : `${sayQuantity(s.free)} free`;
        return [s.store.id, `${s.store.name}: ${said}`] as const;
      }),
    ],
    meant: holds[0]?.store.id ?? own?.store.id ?? null,
  };
}

/** Shown once there is a choice; until something is chosen it is what is meant. */
export const FromStore = ({ of: { options, meant } }: { of: FromStores }) =>
  options.length < 2 ? null : <WireSelect name="storeId" label="Taken from" options={options} otherwise={meant} />;
