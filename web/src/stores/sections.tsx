// The parts of the room: what there is, where, what is to be bought, and of whom; to each reader what they may see.
import { readLow, readToBuy } from '#api/purchases.ts';
import { readStoreFigures } from '#api/store-figures.ts';
import { listVanAsks } from '#api/vans.ts';
import { RoomParts } from '../parts/room-parts.tsx';
import { useReader } from '../shell/reader.tsx';

export function StoresParts() {
  const reader = useReader();
  const parts = [
    ['/stores', 'Parts', true],
    ['/stores/all', 'Stores', true],
    ['/stores/buy', 'To buy', reader.may(readToBuy)],
    ['/stores/low', 'Runs low', reader.may(readLow)],
    ['/stores/purchases', 'Purchase orders', true],
    ['/stores/suppliers', 'Suppliers', true],
    ['/stores/asked', 'Asked for vans', reader.may(listVanAsks)],
    ['/stores/returns', 'Returns', true],
    ['/stores/figures', 'Figures', reader.may(readStoreFigures)],
  ] as const;
  return (
    <RoomParts room="stores" parts={parts.flatMap(([path, name, shown]) => (shown ? [[path, name] as const] : []))} />
  );
}
