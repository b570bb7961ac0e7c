// What is done in a day with the rota: people are told of, an order is planned, moved, sent and given to somebody else.
import { randomUUID } from 'node:crypto';
import { act, type Act } from './act.ts';

/** The first who comes after one of each role. */
const SECOND = 7;
const technician = (over: object = {}) => ({
  ...{ version: 0, depotId: 1, startsFrom: 'depot', home: '', latitude: null, longitude: null, van: 'Van 4' },
  ...{ speaks: ['pt'], skills: [], ...over },
});
const absence = (over: object = {}) => ({
  ...{ kind: 'leave', from: '2026-12-21T00:00:00Z', to: '2026-12-24T00:00:00Z', text: '', ...over },
});
const appointment = (over: object = {}) => ({
  ...{ from: '2026-11-25T10:00:00Z', minutes: 60, anyway: true, overlapReason: '', ...over },
});

export const ROTA_ACTS: readonly Act[] = [
  act(
    'travel is reckoned otherwise',
    'PUT',
    () => '/api/rota/travel',
    () => ({ version: 0, detour: 1.4, fixedMinutes: 6, bands: [{ belowKm: null, kmPerHour: 70 }] }),
  ),
  act(
    'a second technician comes',
    'POST',
    () => '/api/people',
    (at) => ({
      ...{ name: 'Rui Sendim', email: 'rui@example.org', role: 'technician', zone: 'Europe/Lisbon' },
      ...{ password: 'a long enough password', calendarId: at.ids.calendar },
    }),
  ),
  act(
    'it is said where a technician starts',
    'PUT',
    (at) => `/api/rota/people/${at.ids.technician}`,
    () => technician(),
  ),
  act(
    'and where the second does',
    'PUT',
    () => `/api/rota/people/${SECOND}`,
    () => technician({ van: 'Van 5' }),
  ),
  act(
    'two go together',
    'POST',
    () => '/api/rota/crews',
    (at) => ({ name: 'Validation', people: [at.ids.technician, SECOND], fromDay: '2026-11-24', toDay: null }),
  ),
  act(
    'for a week only',
    'PUT',
    (at) => `/api/rota/crews/${at.crew}`,
    (at) => ({
      ...{ version: 1, name: 'Validation', people: [SECOND, at.ids.technician] },
      ...{ fromDay: '2026-11-24', toDay: '2026-11-30' },
    }),
  ),
  act(
    'an absence is entered',
    'POST',
    () => '/api/rota/absences',
    (at) => ({ requestKey: randomUUID(), personId: at.ids.technician, ...absence() }),
  ),
  act(
    'it is a day longer',
    'PUT',
    () => '/api/rota/absences/1',
    () => absence({ version: 1, to: '2026-12-25T00:00:00Z' }),
  ),
  act(
    'one’s own is asked for',
    'POST',
    () => '/api/rota/absences',
    (at) => ({
      ...{ requestKey: randomUUID(), personId: at.ids.administrator },
      ...absence({ from: '2026-12-28T00:00:00Z', to: '2026-12-29T00:00:00Z' }),
    }),
  ),
  act(
    'it is taken back',
    'POST',
    () => '/api/rota/absences/1/removal',
    () => ({ version: 2 }),
  ),
  act(
    'an order is planned',
    'POST',
    () => '/api/rota/appointments',
    (at) => ({ requestKey: randomUUID(), orders: [at.loose], people: [at.ids.technician], ...appointment() }),
  ),
  act(
    'it moves to the afternoon',
    'PUT',
    () => '/api/rota/appointments/1',
    (at) => ({ version: 1, people: [at.ids.technician], ...appointment({ from: '2026-11-25T14:00:00Z' }) }),
  ),
  act(
    'the customer agrees to the time',
    'PUT',
    () => '/api/rota/appointments/1/told',
    () => ({ version: 2, told: { from: '2026-11-25T14:00:00Z', to: '2026-11-25T15:00:00Z' }, fixed: true }),
  ),
  act(
    'the day is sent',
    'POST',
    () => '/api/rota/send',
    (at) => ({ date: '2026-11-25', people: [at.ids.technician] }),
  ),
  act(
    'somebody else goes in their place',
    'POST',
    () => '/api/rota/replace',
    (at) => ({ person: at.ids.technician, by: SECOND, date: '2026-11-25', anyway: true }),
  ),
  act(
    'it is taken out of the rota',
    'POST',
    () => '/api/rota/appointments/1/out',
    () => ({ version: 4, text: 'the customer asked for later' }),
  ),
];
