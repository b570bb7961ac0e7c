// Mail that comes in: who sent it, what it answers, what it says.
export { contactIn, domainOf, matchSender, phoneIn, plainAddress, type KnownSender, type Sender } from './sender.ts';
export { answerTo, idsIn, isAutomatic, nearestKnown, plainSubject } from './thread.ts';
export { marksIn, partWords, saidIn, type MailWords } from './words.ts';

/** The largest message that is taken, as it travels; what is attached is a third larger there than as a file. */
export const MOST_MAIL_BYTES = 25 * 1024 * 1024;

/** Where a message stands: to be looked at, made an order or part of one, or put away. */
export const MAIL_STATES = ['to look at', 'on an order', 'put away'] as const;
export type MailState = (typeof MAIL_STATES)[number];
