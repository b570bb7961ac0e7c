// What this room asks of the server.
import * as files from '#api/files.ts';
import { read, server, write } from '../shell/store.ts';

export const filesApi = server.injectEndpoints({
  endpoints: (build) => ({
    listFiles: read(build, files.listFiles),
    addFile: write(build, files.addFile),
    removeFile: write(build, files.removeFile),
  }),
});
