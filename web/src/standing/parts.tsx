// The parts of Standing.
import { RoomParts } from '../parts/room-parts.tsx';

const PARTS = [
  ['/standing', 'Promises and upkeep'],
  ['/standing/reliability', 'Reliability'],
  ['/standing/months', 'Months'],
] as const;

export const StandingParts = () => (
  <div className="mt-2">
    <RoomParts room="Standing" parts={PARTS} />
  </div>
);
