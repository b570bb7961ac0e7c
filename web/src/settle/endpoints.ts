// What this room asks of the server.
import * as allowances from '#api/allowances.ts';
import * as billing from '#api/billing.ts';
import * as claims from '#api/claims.ts';
import * as documents from '#api/documents.ts';
import * as journal from '#api/journal.ts';
import * as margins from '#api/margins.ts';
import * as payments from '#api/payments.ts';
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
    readSettleToday: read(build, billing.readSettleToday),
    listLooks: read(build, billing.listLooks),
    readLook: read(build, billing.readLook),
    approveOrders: write(build, billing.approveOrders),
    approveSecond: write(build, billing.approveSecond),
    withdrawApproval: write(build, billing.withdrawApproval),
    addCorrection: write(build, billing.addCorrection),
    removeCorrection: write(build, billing.removeCorrection),
    previewBilling: write(build, documents.previewBilling),
    startBilling: write(build, documents.startBilling),
    listBillingRuns: read(build, documents.listRuns),
    listDocuments: read(build, documents.listDocuments),
    readDocument: read(build, documents.readDocument),
    issueDocument: write(build, documents.issueDocument),
    discardDocument: write(build, documents.discardDocument),
    creditDocument: write(build, documents.creditDocument),
    listDebtors: read(build, payments.listDebtors),
    readOpenItems: read(build, payments.readOpenItems),
    listIncoming: read(build, payments.listPayments),
    readIncoming: read(build, payments.readPayment),
    typePayment: write(build, payments.typePayment),
    layPayment: write(build, payments.layPayment),
    setAsidePayment: write(build, payments.setAsidePayment),
    takeBackAside: write(build, payments.takeBackAside),
    layCredit: write(build, payments.layCredit),
    writeOff: write(build, payments.writeOff),
    takeBackLaid: write(build, payments.takeBackLaid),
    previewBank: write(build, payments.previewBank),
    loadBank: write(build, payments.loadBank),
    previewReminders: write(build, payments.previewReminders),
    sendReminders: write(build, payments.sendReminders),
    listClaims: read(build, claims.listClaims),
    readClaim: read(build, claims.readClaim),
    changeClaim: write(build, claims.changeClaim),
    sendClaim: write(build, claims.sendClaim),
    answerClaim: write(build, claims.answerClaim),
    closeClaim: write(build, claims.closeClaim),
    giveClaimUp: write(build, claims.giveClaimUp),
    openClaimAgain: write(build, claims.openClaimAgain),
    changeMaker: write(build, claims.changeMaker),
    listAllowances: read(build, allowances.listAllowances),
    listMargins: read(build, margins.listMargins),
    readMargin: read(build, margins.readMargin),
    readJournal: read(build, journal.readJournal),
    closeJournal: write(build, journal.closeJournal),
    nameAccounts: write(build, journal.nameAccounts),
  }),
});
