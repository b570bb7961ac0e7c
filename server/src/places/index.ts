import type { Room } from '../room.ts';
import { placesFound } from './finder.ts';
import { placeRoutes } from './routes.ts';

export { pastStaysOf, staysUntilAfter, type PastStay } from './stays.ts';
export { indexNewPlaces, placesFound } from './finder.ts';
export { mergeIn, moveIn } from './acts.ts';
export { topOf, placesOf, type Place, type Places } from './inherited.ts';

export const places: Room = {
  name: 'places',
  routes: [placeRoutes],
  found: [placesFound],
};
