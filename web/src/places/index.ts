export { placesApi } from './endpoints.ts';
export { PlaceForm } from './place-form.tsx';
export { PlaceStrip } from './place.tsx';
export { TreeChange } from './tree-change.tsx';
export { SiteMap } from './site-map.tsx';
export { PlaceTree } from './tree.tsx';
export { ChooseAmongPlaces, ChoosePlace, namedPlaces, usePlaceChoice } from './choose.tsx';
