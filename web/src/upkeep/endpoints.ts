// What this room asks of the server.
import * as upkeep from '#api/upkeep.ts';
import { read, write, server } from '../shell/store.ts';

export const upkeepApi = server.injectEndpoints({
  endpoints: (build) => ({
    readDue: read(build, upkeep.readDue),
    previewRun: read(build, upkeep.previewRun),
    holdVisits: write(build, upkeep.holdVisits),
    releaseVisits: write(build, upkeep.releaseVisits),
    commitRun: write(build, upkeep.commitRun),
  }),
});
