// What settle tells people outside: that an invoice or credit note is there, with its paper.
import type { MessageKind } from '../platform/message-kind.ts';

export const DOCUMENT_SENT: MessageKind = {
  kind: 'document sent',
  says: 'To whom a customer named for its invoices, with the paper',
  places: ['name', 'number', 'customer', 'amount', 'due'],
  words: {
    en: {
      subject: '{number} for {customer}',
      body: 'Dear {name},\n\nplease find {number} attached: {amount}, {due}.\n',
    },
    pt: {
      subject: '{number} para {customer}',
      body: 'Caro(a) {name},\n\njuntamos {number}: {amount}, {due}.\n',
    },
  },
};
