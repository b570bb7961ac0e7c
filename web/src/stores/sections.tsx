// The parts of the room: what there is, where, what is to be bought, and of whom.
import { RoomParts } from '../parts/room-parts.tsx';

const PARTS = [
  ['/stores', 'Parts'],
  ['/stores/all', 'Stores'],
  ['/stores/buy', 'To buy'],
  ['/stores/low', 'Runs low'],
  ['/stores/purchases', 'Purchase orders'],
  ['/stores/suppliers', 'Suppliers'],
] as const;

export const StoresParts = () => <RoomParts room="stores" parts={PARTS} />;
