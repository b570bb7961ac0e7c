// What this room asks of the server.
import * as imports from '#api/imports.ts';
import { read, write, server } from '../shell/store.ts';

export const importsApi = server.injectEndpoints({
  endpoints: (build) => ({
    beginImport: write(build, imports.beginImport),
    setImport: write(build, imports.setImport),
    readImport: read(build, imports.readImport),
    startImport: write(build, imports.startImport),
    cancelImport: write(build, imports.cancelImport),
    undoImport: write(build, imports.undoImport),
    listImports: read(build, imports.listImports),
  }),
});
