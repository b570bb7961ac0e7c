// What the rota tells its people: their day.
import type { MessageKind } from '../platform/message-kind.ts';

export const DAY_SENT: MessageKind = {
  kind: 'rota day',
  says: 'To a technician, when the work of a day is sent to them',
  places: ['name', 'day', 'work', 'link'],
  words: {
    en: { subject: '{day}: your appointments', body: '{name}, for {day}:\n\n{work}\n{link}\n' },
    pt: { subject: '{day}: os seus serviços', body: '{name}, para {day}:\n\n{work}\n{link}\n' },
  },
};
