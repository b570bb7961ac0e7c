// What plugs in.
import { previewRun } from '#api/upkeep.ts';
import type { Room } from '../shell/room.ts';

export const upkeep: Room = {
  name: 'upkeep',
  rail: { word: 'Upkeep', path: '/upkeep', key: 'u', shown: previewRun },
  today: [
    {
      place: 4,
      card: async () => (await import('./today.tsx')).VisitsCard,
      summary: async () => (await import('./today.tsx')).VisitsSummary,
      decisions: async () => (await import('./today.tsx')).UpkeepDecisions,
    },
  ],
  pages: [{ path: 'upkeep', load: async () => (await import('./upkeep.tsx')).UpkeepRoom }],
};
