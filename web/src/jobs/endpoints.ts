// What this room asks of the server.
import * as jobs from '#api/jobs.ts';
import { read, server, write } from '../shell/store.ts';

export const jobsApi = server.injectEndpoints({
  endpoints: (build) => ({
    listJobs: read(build, jobs.listJobs),
    beginJob: write(build, jobs.beginJob),
    runJob: write(build, jobs.runJob),
  }),
});
