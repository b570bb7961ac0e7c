// What plugs in.
import { readTechnicians, readTravel } from '#api/rota-people.ts';
import type { Room } from '../shell/room.ts';

export const rota: Room = {
  name: 'rota',
  rail: { word: 'Rota', path: '/rota', key: 'y' },
  pages: [
    { path: 'rota', load: async () => (await import('./rota.tsx')).RotaRoom },
    { path: 'rota/forecast', load: async () => (await import('./forecast.tsx')).ForecastRoom },
    { path: 'rota/map', load: async () => (await import('./map.tsx')).MapRoom },
    { path: 'rota/figures', load: async () => (await import('./figures.tsx')).FiguresRoom },
    { path: 'rota/plans/:id', load: async () => (await import('./plan.tsx')).PlanRoom },
    { path: 'rota/absences', load: async () => (await import('./absences.tsx')).AbsencesRoom },
  ],
  today: [
    { place: 1, decisions: async () => (await import('./today.tsx')).PromisesAtRisk },
    { place: 2, decisions: async () => (await import('./today.tsx')).SaidByPhone },
    { place: 3, decisions: async () => (await import('./today.tsx')).AbsencesAsked },
  ],
  setup: [
    {
      ...{ path: 'technicians', word: 'Technicians', shown: readTechnicians },
      load: async () => (await import('./technicians.tsx')).Technicians,
    },
    {
      ...{ path: 'travel', word: 'Travel', shown: readTravel },
      load: async () => (await import('./travel.tsx')).TravelSetup,
    },
  ],
};
