// The parts of the room: what waits to be looked through, what is to be billed, the documents, what is paid of them, and
// what it comes to.
import { listMargins } from '#api/margins.ts';
import { RoomParts } from '../parts/room-parts.tsx';
import { useReader } from '../shell/reader.tsx';

const PARTS = [
  ['/settle', 'Look through'],
  ['/settle/bill', 'Bill'],
  ['/settle/documents', 'Documents'],
  ['/settle/open', 'Open items'],
  ['/settle/payments', 'Payments'],
  ['/settle/claims', 'Claims'],
  ['/settle/allowances', 'Allowances'],
  ['/settle/margins', 'Margins'],
  ['/settle/journal', 'Journal'],
] as const;

export function SettleParts() {
  const reader = useReader();
  const shown = PARTS.filter(([path]) => path !== '/settle/margins' || reader.may(listMargins));
  return <RoomParts room="settle" parts={shown} />;
}
