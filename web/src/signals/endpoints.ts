// What this room asks of the server.
import * as orderAlerts from '#api/order-alerts.ts';
import * as setup from '#api/setup.ts';
import * as signals from '#api/signals.ts';
import { read, write, server } from '../shell/store.ts';

export const signalsApi = server.injectEndpoints({
  endpoints: (build) => ({
    readActiveAlerts: read(build, signals.readActiveAlerts),
    listDevices: read(build, signals.listDevices),
    listAlerts: read(build, signals.listAlerts),
    acknowledgeAlerts: write(build, signals.acknowledgeAlerts),
    shelveAlert: write(build, signals.shelveAlert),
    endShelf: write(build, signals.endShelf),
    raiseForAlert: write(build, signals.raiseForAlert),
    listUnknownDevices: read(build, signals.listUnknownDevices),
    refuseDevice: write(build, signals.refuseDevice),
    moveDevice: write(build, signals.moveDevice),
    readAlertFigures: read(build, signals.readAlertFigures),
    readWatch: read(build, signals.readWatch),
    readReadings: read(build, signals.readReadings),
    listOrderAlerts: read(build, orderAlerts.listOrderAlerts),
    readAlertCurve: read(build, orderAlerts.readAlertCurve),
    addDevice: write(build, setup.addDevice),
  }),
});
