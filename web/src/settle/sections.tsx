// The parts of the room: what waits to be looked through, what is to be billed, the documents, and what is paid of them.
import { RoomParts } from '../parts/room-parts.tsx';

export const SettleParts = () => (
  <RoomParts
    room="settle"
    parts={[
      ['/settle', 'Look through'],
      ['/settle/bill', 'Bill'],
      ['/settle/documents', 'Documents'],
      ['/settle/open', 'Open items'],
      ['/settle/payments', 'Payments'],
      ['/settle/allowances', 'Allowances'],
      ['/settle/journal', 'Journal'],
    ]}
  />
);
