// What agreements tell people outside.
import type { MessageKind } from '../platform/message-kind.ts';

export const RENEWAL_NOTICE: MessageKind = {
  kind: 'renewal notice',
  says: 'To whoever looks after an agreement, a month before it renews by itself',
  places: ['name', 'number', 'agreement', 'customer', 'text', 'link'],
  words: {
    en: {
      subject: '{number} {agreement}: decide about its renewal',
      body: 'Dear {name},\n\n{number} {agreement} of {customer}: {text}\n\nAccept the new term, or let it end:\n{link}\n',
    },
    pt: {
      subject: '{number} {agreement}: decida sobre a renovação',
      body: 'Caro(a) {name},\n\n{number} {agreement}, cliente {customer}: {text}\n\nAceite o novo período ou deixe terminar:\n{link}\n',
    },
  },
};
