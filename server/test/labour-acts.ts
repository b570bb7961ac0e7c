// What is done in a day with time and its prices.
import { randomUUID } from 'node:crypto';
import { act, type Act, type Standing } from './act.ts';

const step = { step: 15, minimum: 0 };
const card = (over: object = {}) => ({
  ...{ name: 'Standard', currency: 'EUR', isStandard: true, surcharges: {}, night: null, callOut: 0 },
  rates: [{ craftId: 1, from: '2026-01-01', cost: 3400, sales: 7500 }],
  ...{ billing: { work: step, travel: step, waiting: step }, travel: { by: 'time' }, ...over },
});
const entry = (over: object = {}) => ({
  ...{ day: '2026-11-23', kind: 'work', from: 540, to: 600, lines: [{ lineId: 1 }], ...over },
});
const sheet = ({ ids }: Standing): string => `/api/time/sheets/${ids.technician}/2026-11-23`;

export const LABOUR_ACTS: readonly Act[] = [
  act(
    'a craft is added',
    'POST',
    () => '/api/crafts',
    () => ({ name: 'Technician' }),
  ),
  act(
    'a technician gets a craft and a calendar',
    'PUT',
    (at) => `/api/people/${at.ids.technician}`,
    (at) => ({
      ...{ version: 1, name: 'Lia Torrado', role: 'technician', zone: 'Europe/Lisbon', active: true },
      ...{ craftId: 1, calendarId: at.ids.calendar },
    }),
  ),
  act(
    'a rate card is added',
    'POST',
    () => '/api/rate-cards',
    () => card(),
  ),
  act(
    'another becomes the standard',
    'POST',
    () => '/api/rate-cards',
    () => card({ name: 'Rates since autumn', callOut: 2_500 }),
  ),
  act(
    'the first is agreed with a customer',
    'PUT',
    (at) => `/api/customers/${at.ids.customer}`,
    (at) => ({
      ...{ name: 'Norvela Laboratories', serviceAddress: null, creditDays: 30, creditLimit: null },
      ...{ overSince: '2026-11-01', rateCardId: 1, version: at.version },
    }),
  ),
  act(
    'time is entered',
    'POST',
    () => '/api/time',
    (at) => ({ requestKey: randomUUID(), personId: at.ids.technician, ...entry() }),
  ),
  act(
    'an entry is changed',
    'PUT',
    () => '/api/time/1',
    () => ({ version: 1, ...entry({ to: 630 }) }),
  ),
  act(
    'rates change',
    'PUT',
    () => '/api/rate-cards/1',
    () => ({ ...card({ name: 'Rates of 2027' }), version: 1 }),
  ),
  act(
    'a craft is renamed',
    'PUT',
    () => '/api/crafts/1',
    () => ({ version: 1, name: 'Field technician' }),
  ),
  act(
    'more time is entered',
    'POST',
    () => '/api/time',
    (at) => ({ requestKey: randomUUID(), personId: at.ids.technician, ...entry({ from: 660, to: 690 }) }),
  ),
  act(
    'time is started',
    'POST',
    () => '/api/time/running',
    () => ({ lineId: 1, kind: 'work' }),
  ),
  act(
    'it is stopped at once',
    'POST',
    () => '/api/time/running/stop',
    () => ({ requestKey: randomUUID() }),
  ),
  act('an entry is removed', 'DELETE', () => '/api/time/2'),
  act('a week is handed in', 'POST', sheet, () => ({ act: 'hand in' })),
  act('a week is approved', 'POST', sheet, () => ({ act: 'approve' })),
  act(
    'time is taken back',
    'POST',
    () => '/api/time/1/counter',
    () => ({ reason: 'wrong order' }),
  ),
];
