// What this room asks of the server.
import * as people from '#api/rota-people.ts';
import { readForecast } from '#api/rota-forecast.ts';
import { readFigures, readFigureTrend } from '#api/rota-figures.ts';
import * as plans from '#api/rota-plans.ts';
import * as rota from '#api/rota.ts';
import { read, write, server } from '../shell/store.ts';

export const rotaApi = server.injectEndpoints({
  endpoints: (build) => ({
    readRota: read(build, rota.readRota),
    readLoose: read(build, rota.readLoose),
    readSaid: read(build, rota.readSaid),
    readWork: read(build, rota.readWork),
    readWhoCanGo: read(build, rota.readCandidates),
    bookAppointment: write(build, rota.bookAppointment),
    moveAppointment: write(build, rota.moveAppointment),
    tellAppointment: write(build, rota.tellAppointment),
    takeOutAppointment: write(build, rota.takeOutAppointment),
    replacePerson: write(build, rota.replacePerson),
    sendDay: write(build, rota.sendDay),
    readForecast: read(build, readForecast),
    readFigures: read(build, readFigures),
    readFigureTrend: read(build, readFigureTrend),
    proposePlan: write(build, plans.proposePlan),
    readPlan: read(build, plans.readPlan),
    acceptPlan: write(build, plans.acceptPlan),
    readTechnicians: read(build, people.readTechnicians),
    keepTechnician: write(build, people.keepTechnician),
    listAbsences: read(build, people.listAbsences),
    addAbsence: write(build, people.addAbsence),
    changeAbsence: write(build, people.changeAbsence),
    decideAbsence: write(build, people.decideAbsence),
    removeAbsence: write(build, people.removeAbsence),
    readTravel: read(build, people.readTravel),
    keepTravel: write(build, people.keepTravel),
    listCrews: read(build, people.listCrews),
    addCrew: write(build, people.addCrew),
    changeCrew: write(build, people.changeCrew),
  }),
});
