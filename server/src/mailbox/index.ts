import type { Room } from '../room.ts';
import { openMailbox } from './intake.ts';
import { MAIL_ANSWER } from './messages.ts';
import { countMail } from './queries.ts';
import { readingMail } from './reading.ts';
import { mailboxRoutes } from './routes.ts';

export { takeMail } from './intake.ts';
export { parseMail } from './parse.ts';
export { keepRead } from './reading.ts';

export const mailbox: Room = {
  name: 'mailbox',
  routes: [mailboxRoutes],
  jobs: [readingMail],
  messages: [MAIL_ANSWER],
  keep: openMailbox,
  count: countMail,
};
