// What this room asks of the server.
import { readDerivations } from '#api/derivations.ts';
import { readReliability } from '#api/reliability.ts';
import * as standing from '#api/standing.ts';
import { read, server } from '../shell/store.ts';

export const standingApi = server.injectEndpoints({
  endpoints: (build) => ({
    readStanding: read(build, standing.readStanding),
    readDerivations: read(build, readDerivations),
    readReliability: read(build, readReliability),
    standingDetail: read(build, standing.standingDetail),
  }),
});
