// What this room asks of the server.
import * as agreements from '#api/agreements/index.ts';
import * as entitlement from '#api/entitlement.ts';
import { read, write, server } from '../shell/store.ts';

export const agreementsApi = server.injectEndpoints({
  endpoints: (build) => ({
    listAgreements: read(build, agreements.listAgreements),
    readAgreement: read(build, agreements.readAgreement),
    writeAgreement: write(build, agreements.writeAgreement),
    changeAgreement: write(build, agreements.changeAgreement),
    changeAdministration: write(build, agreements.changeAdministration),
    readNotices: read(build, agreements.readNotices),
    seeNotice: write(build, agreements.seeNotice),
    readNumbering: read(build, agreements.readNumbering),
    changeNumbering: write(build, agreements.changeNumbering),
    addIndexValue: write(build, agreements.addIndexValue),
    changeLines: write(build, agreements.changeLines),
    setAllowances: write(build, agreements.setAllowances),
    readMatrix: read(build, agreements.readMatrix),
    previewAmendment: read(build, agreements.previewAmendment),
    amend: write(build, agreements.amend),
    compareVersions: read(build, agreements.compareVersions),
    readPrice: read(build, agreements.readPrice),
    listRenewals: read(build, agreements.listRenewals),
    decideRenewal: write(build, agreements.decideRenewal),
    openWork: read(build, agreements.openWork),
    askCover: read(build, entitlement.askCover),
    askMany: read(build, entitlement.askMany),
    askAll: read(build, entitlement.askAll),
    listAgreementTypes: read(build, agreements.listAgreementTypes),
    addAgreementType: write(build, agreements.addAgreementType),
    changeAgreementType: write(build, agreements.changeAgreementType),
    addSchedules: write(build, agreements.addSchedules),
    removeSchedule: write(build, agreements.removeSchedule),
    putInForce: write(build, agreements.putInForce),
    moveStage: write(build, agreements.moveStage),
  }),
});
