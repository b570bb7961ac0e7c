// The parts of the room: the run, the load, the year, a whole place.
import { RoomParts } from '../parts/room-parts.tsx';

const PARTS = [
  ['/upkeep', 'Run'],
  ['/upkeep/load', 'Load'],
  ['/upkeep/year', 'Year'],
  ['/upkeep/place', 'Place'],
] as const;

export const UpkeepParts = () => <RoomParts room="upkeep" parts={PARTS} />;
