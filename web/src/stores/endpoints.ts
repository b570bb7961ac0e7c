// What this room asks of the server.
import * as counts from '#api/counts.ts';
import * as needs from '#api/needs.ts';
import * as picking from '#api/picking.ts';
import * as purchases from '#api/purchases.ts';
import * as stock from '#api/stock.ts';
import * as stores from '#api/stores.ts';
import * as suppliers from '#api/suppliers.ts';
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
    listCounts: read(build, counts.listCounts),
    beginCount: write(build, counts.beginCount),
    readCount: read(build, counts.readCount),
    countPart: write(build, counts.countPart),
    approveCount: write(build, counts.approveCount),
    callOffCount: write(build, counts.callOffCount),
    readPicking: read(build, picking.readPicking),
    pick: write(build, picking.pick),
    readToBring: read(build, picking.readToBring),
    bringBack: write(build, picking.bringBack),
    listSuppliers: read(build, suppliers.listSuppliers),
    addSupplier: write(build, suppliers.addSupplier),
    changeSupplier: write(build, suppliers.changeSupplier),
    readOffered: read(build, suppliers.readOffered),
    keepOffered: write(build, suppliers.keepOffered),
    removeOffered: write(build, suppliers.removeOffered),
    readToBuy: read(build, purchases.readToBuy),
    readLow: read(build, purchases.readLow),
    lookForLow: write(build, purchases.lookForLow),
    buy: write(build, purchases.buy),
    listPurchases: read(build, purchases.listPurchases),
    readPurchase: read(build, purchases.readPurchase),
    setPurchaseLine: write(build, purchases.setPurchaseLine),
    approvePurchase: write(build, purchases.approvePurchase),
    sendPurchase: write(build, purchases.sendPurchase),
    callOffPurchase: write(build, purchases.callOffPurchase),
    closeShort: write(build, purchases.closeShort),
    setInvoiced: write(build, purchases.setInvoiced),
    receivePurchase: write(build, purchases.receivePurchase),
    readStoreSettings: read(build, stock.readStoreSettings),
    keepStoreSettings: write(build, stock.keepStoreSettings),
    readNeeds: read(build, needs.readNeeds),
    setNeed: write(build, needs.setNeed),
    holdForNeed: write(build, needs.holdForNeed),
    goAnyway: write(build, needs.goAnyway),
  }),
});
