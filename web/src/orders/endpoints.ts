// What this room asks of the server.
import * as orders from '#api/orders.ts';
import { read, write, server } from '../shell/store.ts';

export const ordersApi = server.injectEndpoints({
  endpoints: (build) => ({
    readPromises: read(build, orders.readPromises),
    listOrders: read(build, orders.listOrders),
    readOrder: read(build, orders.readOrder),
    raiseRepair: write(build, orders.raiseRepair),
    recordAct: write(build, orders.recordAct),
    /** Asked again and again while somebody writes: kept for a moment only. */
    previewRepair: { ...read(build, orders.previewRepair), keepUnusedDataFor: 5 },
  }),
});
