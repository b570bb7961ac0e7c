// What this room asks of the server.
import * as setup from '#api/setup.ts';
import * as signals from '#api/signals.ts';
import { read, write, server } from '../shell/store.ts';

export const signalsApi = server.injectEndpoints({
  endpoints: (build) => ({
    readActiveAlerts: read(build, signals.readActiveAlerts),
    readSignals: read(build, signals.readSignals),
    readReadings: read(build, signals.readReadings),
    addDevice: write(build, setup.addDevice),
  }),
});
