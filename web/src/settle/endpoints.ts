// What this room asks of the server.
import * as billing from '#api/billing.ts';
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
    readSettleSettings: read(build, billing.readSettleSettings),
    changeSettleSettings: write(build, billing.changeSettleSettings),
    readCustomerBilling: read(build, billing.readCustomerBilling),
    changeCustomerBilling: write(build, billing.changeCustomerBilling),
    listLooks: read(build, billing.listLooks),
    readLook: read(build, billing.readLook),
    approveOrders: write(build, billing.approveOrders),
    approveSecond: write(build, billing.approveSecond),
    withdrawApproval: write(build, billing.withdrawApproval),
    addCorrection: write(build, billing.addCorrection),
    removeCorrection: write(build, billing.removeCorrection),
    previewBilling: write(build, billing.previewBilling),
    startBilling: write(build, billing.startBilling),
    listBillingRuns: read(build, billing.listRuns),
    listDocuments: read(build, billing.listDocuments),
    readDocument: read(build, billing.readDocument),
    issueDocument: write(build, billing.issueDocument),
    discardDocument: write(build, billing.discardDocument),
    creditDocument: write(build, billing.creditDocument),
  }),
});
