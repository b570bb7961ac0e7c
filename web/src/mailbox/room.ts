// What plugs in.
import { listMail } from '#api/mailbox.ts';
import type { Room } from '../shell/room.ts';

export const mailbox: Room = {
  name: 'mailbox',
  rail: { word: 'Mail', path: '/mail', key: 'm', shown: listMail },
  pages: [{ path: 'mail/:id?', load: async () => (await import('./mail.tsx')).MailRoom }],
  today: [{ place: 1, decisions: async () => (await import('./today.tsx')).MailToLookAt }],
};
