// What this room asks of the server.
import * as settle from '#api/settle.ts';
import { read, write, server } from '../shell/store.ts';

export const settleApi = server.injectEndpoints({
  endpoints: (build) => ({
    readTaxes: read(build, settle.readTaxes),
    addTax: write(build, settle.addTax),
    changeTax: write(build, settle.changeTax),
    readCharges: read(build, settle.readCharges),
    addCost: write(build, settle.addCost),
    changeCost: write(build, settle.changeCost),
    removeCost: write(build, settle.removeCost),
  }),
});
