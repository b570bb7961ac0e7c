// What is told of offers.
import type { MessageKind } from '../platform/message-kind.ts';

export const OFFER_SENT = {
  kind: 'offer sent',
  says: 'To the customer’s contact, with the offer as PDF',
  places: ['name', 'number', 'title', 'total', 'until', 'who'],
  words: {
    en: {
      subject: 'Our offer {number}: {title}',
      body: 'Dear {name},\n\nour offer {number} for {title} is attached: {total} without tax, valid until {until}.\n\n{who}\n',
    },
    pt: {
      subject: 'A nossa proposta {number}: {title}',
      body: 'Caro(a) {name},\n\njuntamos a nossa proposta {number} para {title}: {total} sem imposto, válida até {until}.\n\n{who}\n',
    },
  },
} as const satisfies MessageKind;
