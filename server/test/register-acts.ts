// What is done in a day with customers, places and machines.
import { act, type Act } from './act.ts';

const TERMS = { serviceAddress: null, creditDays: 30, creditLimit: null, overSince: null };

export const REGISTER_ACTS: readonly Act[] = [
  act(
    'a customer is renamed',
    'PUT',
    (at) => `/api/customers/${at.ids.customer}`,
    (at) => ({
      ...{ ...TERMS, name: 'Norvela Laboratories', version: at.version },
    }),
  ),
  act(
    'a customer goes over its credit terms',
    'PUT',
    (at) => `/api/customers/${at.ids.customer}`,
    (at) => ({
      ...{ ...TERMS, name: 'Norvela Laboratories', overSince: '2026-11-01', version: at.version },
    }),
  ),
  act(
    'a contact is added',
    'POST',
    (at) => `/api/customers/${at.ids.customer}/contacts`,
    () => ({
      ...{ name: 'Rosa Vidal', role: 'lab lead', email: null, phone: '900 111', preferred: 'phone' },
    }),
  ),
  act(
    'a note is written',
    'POST',
    (at) => `/api/customers/${at.ids.customer}/notes`,
    () => ({
      ...{ text: 'Badge at the gate', popsUp: true },
    }),
  ),
  act(
    'a place is renamed, and its visits join',
    'PUT',
    (at) => `/api/locations/${at.ids.place}`,
    (at) => ({
      ...{ version: at.version, name: 'Norvela Campus', address: null, zone: 'Europe/Madrid', joinDays: 7 },
    }),
  ),
  act(
    'a place is added',
    'POST',
    () => '/api/locations',
    (at) => ({
      ...{ parentId: at.ids.place, customerId: at.ids.customer, name: 'Annex', address: null, zone: null },
    }),
  ),
  act(
    'a machine gets another tag and model',
    'PUT',
    (at) => `/api/assets/${at.ids.asset}`,
    (at) => ({
      ...{
        version: at.version,
        tag: 'Q100-A',
        model: 'ULF-721',
        serial: 'ULF720-Q100',
        maker: 'Tindrel',
        owner: 'customer',
      },
      ...{ state: 'in service', warrantyUntil: '2027-05-01' },
    }),
  ),
  act(
    'a machine goes out of service',
    'POST',
    (at) => `/api/assets/${at.ids.asset}/life`,
    (at) => ({
      ...{ version: at.version, act: { kind: 'out of service' }, on: '2026-11-24', text: 'door' },
    }),
  ),
  act(
    'a machine comes back into service',
    'POST',
    (at) => `/api/assets/${at.ids.asset}/life`,
    (at) => ({
      ...{ version: at.version, act: { kind: 'back in service' }, on: '2026-11-24', text: '' },
    }),
  ),
  act(
    'a meter is added',
    'POST',
    (at) => `/api/assets/${at.ids.asset}/meters`,
    () => ({ name: 'Run hours', unit: 'h' }),
  ),
];
