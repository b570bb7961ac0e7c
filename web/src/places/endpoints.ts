// What this room asks of the server.
import * as places from '#api/places.ts';
import { read, write, server } from '../shell/store.ts';

export const placesApi = server.injectEndpoints({
  endpoints: (build) => ({
    readTree: read(build, places.readTree),
    readPlace: read(build, places.readPlace),
    addLocation: write(build, places.addLocation),
    changeLocation: write(build, places.changeLocation),
    previewMove: write(build, places.previewMove),
    moveLocation: write(build, places.moveLocation),
    previewMerge: write(build, places.previewMerge),
    mergeLocation: write(build, places.mergeLocation),
    retireLocation: write(build, places.retireLocation),
    shareLocation: write(build, places.shareLocation),
    listSites: read(build, places.listSites),
  }),
});
