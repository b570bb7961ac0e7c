// What plugs in.
import type { Room } from '../shell/room.ts';

export const agreements: Room = {
  name: 'agreements',
  rail: { word: 'Agreements', path: '/agreements', key: 'a' },
  pages: [
    { path: 'agreements', load: async () => (await import('./list.tsx')).AgreementsRoom },
    { path: 'agreements/renewals', load: async () => (await import('./renewals.tsx')).RenewalsPage },
    { path: 'agreements/cover', load: async () => (await import('./cover-questions.tsx')).CoverQuestionsPage },
    { path: 'agreements/:id', load: async () => (await import('./agreement.tsx')).AgreementPage },
  ],
  today: [
    { place: 2, card: async () => (await import('./today.tsx')).OwnNoticesCard },
    { place: 5, decisions: async () => (await import('./today.tsx')).NoticeDates },
  ],
  found: [{ kind: 'agreement', group: 'Agreements', open: (hit) => `/agreements/${hit.id}` }],
};
