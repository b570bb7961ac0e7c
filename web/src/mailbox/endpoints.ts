// What this room asks of the server.
import * as mailbox from '#api/mailbox.ts';
import { read, server, write } from '../shell/store.ts';

export const mailboxApi = server.injectEndpoints({
  endpoints: (build) => ({
    listMail: read(build, mailbox.listMail),
    readMail: read(build, mailbox.readMail),
    raiseFromMail: write(build, mailbox.raiseFromMail),
    joinFromMail: write(build, mailbox.joinFromMail),
    putMailAway: write(build, mailbox.putMailAway),
    nameSender: write(build, mailbox.nameSender),
    answerMail: write(build, mailbox.answerMail),
  }),
});
