// What the rota tells: its people their day, customers that somebody comes later.
import type { MessageKind } from '../platform/message-kind.ts';

export const COMES_LATER: MessageKind = {
  kind: 'rota later',
  says: 'To the contact on site, when whoever goes says they come later',
  places: ['name', 'number', 'title', 'machine', 'place', 'technician', 'time', 'text'],
  words: {
    en: {
      subject: '{number} {title}: {technician} comes at about {time}',
      body: 'Dear {name},\n\n{technician} comes later than we told you, at about {time}. {text}\n{number} {title}\n{machine}, {place}\n',
    },
    pt: {
      subject: '{number} {title}: {technician} chega por volta das {time}',
      body: 'Caro(a) {name},\n\n{technician} chega mais tarde do que dissemos, por volta das {time}. {text}\n{number} {title}\n{machine}, {place}\n',
    },
  },
};

export const DAY_SENT: MessageKind = {
  kind: 'rota day',
  says: 'To a technician, when the work of a day is sent to them',
  places: ['name', 'day', 'work', 'link'],
  words: {
    en: { subject: '{day}: your appointments', body: '{name}, for {day}:\n\n{work}\n{link}\n' },
    pt: { subject: '{day}: os seus serviços', body: '{name}, para {day}:\n\n{work}\n{link}\n' },
  },
};

export const DAY_CHANGED: MessageKind = {
  kind: 'rota changed',
  says: 'To a technician, when an appointment they were sent is moved, given to somebody else or taken out',
  places: ['name', 'what', 'when', 'work', 'link'],
  words: {
    en: { subject: '{what}: {when}', body: '{name}, {what}:\n\n{when}\n{work}\n{link}\n' },
    pt: { subject: '{what}: {when}', body: '{name}, {what}:\n\n{when}\n{work}\n{link}\n' },
  },
};
