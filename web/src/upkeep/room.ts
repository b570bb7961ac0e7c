// What plugs in.
import { listPatterns } from '#api/patterns.ts';
import { previewRun, readUpkeepSettings } from '#api/upkeep.ts';
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
  setup: [
    {
      path: 'upkeep',
      word: 'Upkeep runs',
      shown: readUpkeepSettings,
      load: async () => (await import('./settings.tsx')).UpkeepSettings,
    },
    {
      path: 'patterns',
      word: 'Visit patterns',
      shown: listPatterns,
      load: async () => (await import('./patterns/patterns.tsx')).Patterns,
    },
  ],
  pages: [
    { path: 'upkeep', load: async () => (await import('./upkeep.tsx')).UpkeepRoom },
    { path: 'upkeep/load', load: async () => (await import('./load/load.tsx')).LoadRoom },
    { path: 'upkeep/year', load: async () => (await import('./year/year.tsx')).YearRoom },
    { path: 'upkeep/place', load: async () => (await import('./facility/facility.tsx')).FacilityRoom },
    { path: 'schedules/:id', load: async () => (await import('./series.tsx')).SeriesPage },
    { path: 'upkeep/runs/:id', load: async () => (await import('./ran.tsx')).RanPage },
  ],
};
