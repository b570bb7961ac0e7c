// What this room asks of the server.
import * as agreements from '#api/agreements.ts';
import * as care from '#api/care.ts';
import * as terms from '#api/terms.ts';
import { read, write, server } from '../shell/store.ts';

export const agreementsApi = server.injectEndpoints({
  endpoints: (build) => ({
    listAgreements: read(build, agreements.listAgreements),
    readAgreement: read(build, agreements.readAgreement),
    writeAgreement: write(build, agreements.writeAgreement),
    changeAgreement: write(build, agreements.changeAgreement),
    changeCare: write(build, care.changeCare),
    readNotices: read(build, care.readNotices),
    seeNotice: write(build, care.seeNotice),
    readNumbering: read(build, care.readNumbering),
    changeNumbering: write(build, care.changeNumbering),
    announceIndex: write(build, care.announceIndex),
    changeLines: write(build, terms.changeLines),
    setAllowances: write(build, terms.setAllowances),
    readMatrix: read(build, terms.readMatrix),
    previewAmendment: read(build, terms.previewAmendment),
    amend: write(build, terms.amend),
    compareVersions: read(build, terms.compareVersions),
    readPrice: read(build, terms.readPrice),
    listRenewals: read(build, terms.listRenewals),
    decideRenewal: write(build, terms.decideRenewal),
    openWork: read(build, terms.openWork),
    askCover: read(build, terms.askCover),
    askMany: read(build, terms.askMany),
    askAll: read(build, terms.askAll),
    listAgreementTypes: read(build, terms.listAgreementTypes),
    addAgreementType: write(build, terms.addAgreementType),
    changeAgreementType: write(build, terms.changeAgreementType),
    addSchedules: write(build, agreements.addSchedules),
    removeSchedule: write(build, agreements.removeSchedule),
    putInForce: write(build, agreements.putInForce),
    moveStage: write(build, agreements.moveStage),
  }),
});
