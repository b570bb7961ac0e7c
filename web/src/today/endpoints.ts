// What this room asks of the server.
import * as today from '#api/today.ts';
import { read, server } from '../shell/store.ts';

export const todayApi = server.injectEndpoints({
  endpoints: (build) => ({
    readToday: read(build, today.readToday),
  }),
});
