// What orders tell people outside, by stage: the customer's contact, and the technician who goes.
import type { MessageKind } from '../platform/message-kind.ts';

const OF_ORDER = ['name', 'number', 'title', 'customer', 'machine', 'place'] as const;
const head = (text: string): string => `{number} {title}: ${text}`;
const about = '{number} {title}\n{machine}, {place}\n';

/** By what they tell; the key is kept in the settings. */
export const ORDER_MESSAGES = {
  taken: {
    kind: 'order taken',
    says: 'To who called, when their call has become an order',
    places: [...OF_ORDER, 'promise'],
    words: {
      en: {
        subject: head('we have your call'),
        body: `Dear {name},\n\nwe have your call:\n${about}\n{promise}\n`,
      },
      pt: {
        subject: head('recebemos o seu pedido'),
        body: `Caro(a) {name},\n\nrecebemos o seu pedido:\n${about}\n{promise}\n`,
      },
    },
  },
  planned: {
    kind: 'order planned',
    says: 'To the contact on site or who called, when it is planned who comes and when',
    places: [...OF_ORDER, 'technician', 'day', 'time'],
    words: {
      en: {
        subject: head('{technician} comes on {day}'),
        body: `Dear {name},\n\n{technician} comes on {day}{time}:\n${about}`,
      },
      pt: {
        subject: head('{technician} vem em {day}'),
        body: `Caro(a) {name},\n\n{technician} vem em {day}{time}:\n${about}`,
      },
    },
  },
  sent: {
    kind: 'order sent',
    says: 'To the technician, when an order is sent to them',
    places: [...OF_ORDER, 'day', 'address', 'access', 'link'],
    words: {
      en: {
        subject: head('on {day}'),
        body: `{name}, for {day}:\n${about}{customer}\n{address}\n{access}\n{link}\n`,
      },
      pt: {
        subject: head('em {day}'),
        body: `{name}, para {day}:\n${about}{customer}\n{address}\n{access}\n{link}\n`,
      },
    },
  },
  done: {
    kind: 'order done',
    says: 'To the contact on site or who called, when the order is done',
    places: [...OF_ORDER, 'technician', 'text'],
    words: {
      en: {
        subject: head('done'),
        body: `Dear {name},\n\nthis is done:\n${about}{text}\n`,
      },
      pt: {
        subject: head('concluído'),
        body: `Caro(a) {name},\n\nisto está concluído:\n${about}{text}\n`,
      },
    },
  },
  'called off': {
    kind: 'order called off',
    says: 'To who called and to the technician who would have gone, when an order is called off',
    places: [...OF_ORDER, 'text'],
    words: {
      en: { subject: head('called off'), body: `{name}, this is called off:\n${about}{text}\n` },
      pt: { subject: head('anulado'), body: `{name}, isto foi anulado:\n${about}{text}\n` },
    },
  },
} as const satisfies Readonly<Record<string, MessageKind>>;
