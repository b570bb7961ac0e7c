// The parts of the room: what waits to be looked through, what is to be billed, and the documents.
import { RoomParts } from '../parts/room-parts.tsx';

export const SettleParts = () => (
  <RoomParts
    room="settle"
    parts={[
      ['/settle', 'Look through'],
      ['/settle/bill', 'Bill'],
      ['/settle/documents', 'Documents'],
    ]}
  />
);
