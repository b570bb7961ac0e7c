// What this room asks of the server.
import { readMonth } from '#api/labour-month.ts';
import * as labour from '#api/labour.ts';
import { read, write, server } from '../shell/store.ts';

export const labourApi = server.injectEndpoints({
  endpoints: (build) => ({
    readRates: read(build, labour.readRates),
    addCraft: write(build, labour.addCraft),
    changeCraft: write(build, labour.changeCraft),
    addRateCard: write(build, labour.addRateCard),
    changeRateCard: write(build, labour.changeRateCard),
    readWeek: read(build, labour.readWeek),
    readMonth: read(build, readMonth),
    listSheets: read(build, labour.listSheets),
    actOnSheet: write(build, labour.actOnSheet),
    addEntry: write(build, labour.addEntry),
    changeEntry: write(build, labour.changeEntry),
    removeEntry: write(build, labour.removeEntry),
    counterEntry: write(build, labour.counterEntry),
    findLines: read(build, labour.findLines),
    readRunning: read(build, labour.readRunning),
    startTime: write(build, labour.startTime),
    stopTime: write(build, labour.stopTime),
    readIndication: read(build, labour.readIndication),
  }),
});
