// What is answered to mail.
import type { MessageKind } from '../platform/message-kind.ts';

export const MAIL_ANSWER = {
  kind: 'mail answer',
  says: 'To who wrote, what somebody here answers',
  places: ['subject', 'text', 'who'],
  words: {
    en: { subject: 'Re: {subject}', body: '{text}\n\n{who}\n' },
    pt: { subject: 'Re: {subject}', body: '{text}\n\n{who}\n' },
  },
} as const satisfies MessageKind;
