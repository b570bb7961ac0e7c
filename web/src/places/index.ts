export { placesApi } from './endpoints.ts';
export { PlaceForm, PlaceStrip, TreeChange } from './place.tsx';
export { SiteMap } from './site-map.tsx';
export { PlaceTree } from './tree.tsx';
export { ChooseAmongPlaces, ChoosePlace, namedPlaces } from './choose.tsx';
