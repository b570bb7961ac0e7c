// What this room asks of the server.
import * as needs from '#api/needs.ts';
import * as stock from '#api/stock.ts';
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
    listStores: read(build, stock.listStores),
    addStore: write(build, stock.addStore),
    changeStore: write(build, stock.changeStore),
    readShelves: read(build, stock.readShelves),
    setShelf: write(build, stock.setShelf),
    readPartStock: read(build, stock.readPartStock),
    readMoves: read(build, stock.readMoves),
    receiveStock: write(build, stock.receiveStock),
    transferStock: write(build, stock.transferStock),
    scrapStock: write(build, stock.scrapStock),
    readStoreSettings: read(build, stock.readStoreSettings),
    keepStoreSettings: write(build, stock.keepStoreSettings),
    readNeeds: read(build, needs.readNeeds),
    setNeed: write(build, needs.setNeed),
    holdForNeed: write(build, needs.holdForNeed),
    goAnyway: write(build, needs.goAnyway),
  }),
});
