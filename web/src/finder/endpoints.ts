// What this room asks of the server.
import * as assets from '#api/assets.ts';
import * as finder from '#api/finder.ts';
import { read, server } from '../shell/store.ts';

export const finderApi = server.injectEndpoints({
  endpoints: (build) => ({
    readScan: read(build, assets.readScan),
    find: read(build, finder.find),
  }),
});
