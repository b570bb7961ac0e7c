// What this room asks of the server.
import * as outbox from '#api/outbox.ts';
import { read, server, write } from '../shell/store.ts';

export const outboxApi = server.injectEndpoints({
  endpoints: (build) => ({
    listOutbox: read(build, outbox.listOutbox),
    sendAgain: write(build, outbox.sendAgain),
    listTemplates: read(build, outbox.listTemplates),
    changeTemplate: write(build, outbox.changeTemplate),
  }),
});
