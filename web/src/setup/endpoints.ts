// What this room asks of the server.
import * as alertRules from '#api/alert-rules.ts';
import { previewCalendar } from '#api/calendar-effect.ts';
import * as catalogue from '#api/catalogue.ts';
import * as depots from '#api/depots.ts';
import * as forms from '#api/forms.ts';
import * as session from '#api/session.ts';
import * as setup from '#api/setup.ts';
import { read, write, server } from '../shell/store.ts';

export const setupApi = server.injectEndpoints({
  endpoints: (build) => ({
    listPeople: read(build, session.listPeople),
    addPerson: write(build, session.addPerson),
    changePerson: write(build, session.changePerson),
    readCatalogue: read(build, catalogue.readCatalogue),
    addClass: write(build, catalogue.addClass),
    changeClass: write(build, catalogue.changeClass),
    addModel: write(build, catalogue.addModel),
    changeModel: write(build, catalogue.changeModel),
    readDepots: read(build, depots.readDepots),
    addDepot: write(build, depots.addDepot),
    changeDepot: write(build, depots.changeDepot),
    addSkill: write(build, depots.addSkill),
    changeSkill: write(build, depots.changeSkill),
    listForms: read(build, forms.listForms),
    addForm: write(build, forms.addForm),
    changeForm: write(build, forms.changeForm),
    removeForm: write(build, forms.removeForm),
    readReference: read(build, setup.readReference),
    addCalendar: write(build, setup.addCalendar),
    previewCalendar: { ...read(build, previewCalendar), keepUnusedDataFor: 5 },
    changeCalendar: write(build, setup.changeCalendar),
    proposeHolidays: read(build, setup.proposeHolidays),
    addServiceLevel: write(build, setup.addServiceLevel),
    changeServiceLevel: write(build, setup.changeServiceLevel),
    addJobPlan: write(build, setup.addJobPlan),
    changeJobPlan: write(build, setup.changeJobPlan),
    listAlertRules: read(build, alertRules.listAlertRules),
    addAlertRule: write(build, alertRules.addAlertRule),
    changeAlertRule: write(build, alertRules.changeAlertRule),
    tryAlertRule: write(build, alertRules.tryAlertRule),
    listGateways: read(build, setup.listGateways),
    addGateway: write(build, setup.addGateway),
    revokeGateway: write(build, setup.revokeGateway),
    rotateGateway: write(build, setup.rotateGateway),
  }),
});
