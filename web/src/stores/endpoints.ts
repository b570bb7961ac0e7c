// What this room asks of the server.
import * as stores from '#api/stores.ts';
import { read, write, server } from '../shell/store.ts';

export const storesApi = server.injectEndpoints({
  endpoints: (build) => ({
    listParts: read(build, stores.listParts),
    addPart: write(build, stores.addPart),
    changePart: write(build, stores.changePart),
    previewParts: write(build, stores.previewParts),
    importParts: write(build, stores.importParts),
    usePart: write(build, stores.usePart),
    usePlanned: write(build, stores.usePlanned),
    changeUse: write(build, stores.changeUse),
    removeUse: write(build, stores.removeUse),
  }),
});
