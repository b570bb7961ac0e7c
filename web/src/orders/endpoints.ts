// What this room asks of the server.
import * as calls from '#api/calls.ts';
import * as clocks from '#api/clocks.ts';
import * as lists from '#api/order-lists.ts';
import * as orders from '#api/orders.ts';
import { read, write, server } from '../shell/store.ts';

export const ordersApi = server.injectEndpoints({
  endpoints: (build) => ({
    readPromises: read(build, orders.readPromises),
    listOrders: read(build, lists.listOrders),
    readOrder: read(build, orders.readOrder),
    readTold: read(build, orders.readTold),
    beHere: write(build, orders.beHere),
    listExceptions: read(build, lists.listExceptions),
    listViews: read(build, lists.listViews),
    keepView: write(build, lists.keepView),
    removeView: write(build, lists.removeView),
    previewMany: write(build, lists.previewBulk),
    actOnMany: write(build, lists.actOnMany),
    raiseOrder: write(build, calls.raiseOrder),
    joinOrder: write(build, calls.joinOrder),
    changeOrder: write(build, calls.changeOrder),
    addLine: write(build, calls.addLine),
    followUp: write(build, calls.followUp),
    readClocksAtWork: read(build, clocks.readClocksAtWork),
    readWarnings: read(build, clocks.readWarnings),
    acknowledgeWarnings: write(build, clocks.acknowledgeWarnings),
    handOver: write(build, clocks.handOver),
    changeHead: write(build, calls.changeHead),
    readOrderSettings: read(build, calls.readOrderSettings),
    changeOrderSettings: write(build, calls.changeOrderSettings),
    recordAct: write(build, orders.recordAct),
    /** Asked again and again while somebody writes: kept for a moment only. */
    previewOrder: { ...read(build, calls.previewOrder), keepUnusedDataFor: 5 },
    previewChange: { ...read(build, calls.previewChange), keepUnusedDataFor: 5 },
  }),
});
