// What is done in a day with calls and orders, with parts, other costs and taxes.
import { randomUUID } from 'node:crypto';
import { act, type Act } from './act.ts';

const part = (over: object = {}) => ({
  ...{ number: 'GS-1', name: 'Gasket', unit: 'piece', listPrice: 8990, cost: 5100, taxId: null },
  ...{ consumable: false, serialTracked: false, retired: false, ...over },
});
const cost = (over: object = {}) => ({
  ...{ lineId: 1, day: '2026-11-24', text: 'Toll', cost: 1250, price: 1500, ...over },
});
const tax = (over: object = {}) => ({ name: 'Standard', category: 'S', hundredths: 2300, isStandard: true, ...over });
const DOOR = {
  ...{ kind: 'other', assetId: null, text: 'Door', quantity: 1000, unit: 'piece', price: 45_000, cost: 30_000 },
  ...{ discount: 0, partId: null, supplier: '', taxId: null },
};
const recorded = (says: string, body: object): Act =>
  act(
    says,
    'POST',
    (at) => `/api/orders/${at.ids.order}/events`,
    () => ({ requestKey: randomUUID(), at: '2026-11-24T09:13:00Z', act: body }),
  );

export const ORDER_ACTS: readonly Act[] = [
  act(
    'orders of customers over their terms go on',
    'PUT',
    () => '/api/order-settings',
    () => ({ overTerms: 'go on', priorities: ['down', 'poor', 'can wait', 'any time', 'never mind'], version: 1 }),
  ),
  act(
    'a second call joins an order',
    'POST',
    (at) => `/api/orders/${at.ids.order}/calls`,
    () => ({ requestKey: randomUUID(), receivedAt: '2026-11-24T09:13:00Z', text: 'it beeps' }),
  ),
  act(
    'the head of an order is changed',
    'PUT',
    (at) => `/api/orders/${at.ids.order}/head`,
    () => ({ customerReference: { from: '', to: 'PO-77' } }),
  ),
  act(
    'a machine is added to an order',
    'POST',
    (at) => `/api/orders/${at.ids.order}/lines`,
    (at) => ({ requestKey: randomUUID(), assetId: at.ids.third }),
  ),
  act(
    'an order is handed over',
    'POST',
    (at) => `/api/orders/${at.ids.order}/hand-over`,
    (at) => ({ requestKey: randomUUID(), personId: at.ids.technician, text: 'knows the place' }),
  ),
  recorded('it is said what was found', {
    ...{ kind: 'found', lineId: 1, symptom: 'warm', fault: 'seal', cause: 'wear', remedy: 'replaced' },
  }),
  act(
    'an order is decided again',
    'POST',
    (at) => `/api/orders/${at.ids.order}/changes`,
    () => ({ requestKey: randomUUID(), priority: 1, lines: [{ lineId: 1, cause: 'misuse' }], text: 'it is down' }),
  ),
  recorded('a machine is taken off', { kind: 'line', lineId: 3, outcome: 'off', text: 'named by mistake' }),
  act(
    'what is left is followed up',
    'POST',
    (at) => `/api/orders/${at.ids.order}/follow-up`,
    () => ({ requestKey: randomUUID(), lineIds: [1], reason: 'compressor on order' }),
  ),
  act(
    'a tax is added',
    'POST',
    () => '/api/taxes',
    () => tax(),
  ),
  act(
    'a tax is changed',
    'PUT',
    (at) => `/api/taxes/${at.tax}`,
    () => tax({ hundredths: 2100, version: 1 }),
  ),
  act(
    'a part is added',
    'POST',
    () => '/api/parts',
    () => part(),
  ),
  act(
    'a part is used',
    'POST',
    (at) => `/api/orders/${at.ids.order}/parts`,
    () => ({ requestKey: randomUUID(), partId: 1, lineId: 1, thousandths: 2000 }),
  ),
  act(
    'it was one only',
    'PUT',
    () => '/api/used-parts/2',
    () => ({ version: 1, lineId: 1, thousandths: 1000 }),
  ),
  act(
    'the part is renamed',
    'PUT',
    () => '/api/parts/3',
    () => part({ name: 'Door gasket', version: 1 }),
  ),
  act(
    'a parts list is loaded',
    'POST',
    () => '/api/parts/import',
    () => ({ text: 'number,name,list price,cost\r\nGS-2,Seal,1,1\r\n' }),
  ),
  act('the use is taken back', 'DELETE', () => '/api/used-parts/2'),
  act(
    'another cost is added',
    'POST',
    (at) => `/api/orders/${at.ids.order}/costs`,
    () => ({ requestKey: randomUUID(), ...cost() }),
  ),
  act(
    'we bear it',
    'PUT',
    () => '/api/costs/1',
    () => ({ version: 1, ...cost({ oursBecause: 'we were late' }) }),
  ),
  act('the cost is removed', 'DELETE', () => '/api/costs/1'),
  act(
    'the sender of a message becomes a contact',
    'POST',
    () => '/api/mail/1/sender',
    (at) => ({ customerId: at.ids.customer, name: 'Zita Nunes', phone: '900 111 222' }),
  ),
  act(
    'a message is answered',
    'POST',
    () => '/api/mail/1/answers',
    () => ({ requestKey: randomUUID(), text: 'We come today.' }),
  ),
  act(
    'a message is added to an order',
    'POST',
    () => '/api/mail/1/join',
    (at) => ({ orderId: at.ids.order }),
  ),
  act(
    'a message is put away',
    'POST',
    () => '/api/mail/2/away',
    () => ({ reason: 'an advertisement' }),
  ),
  act(
    'an offer is changed',
    'PUT',
    () => '/api/offers/1',
    (at) => ({
      ...{ version: 1, customerId: at.ids.customer, assetIds: [at.ids.asset], title: 'A better door', text: '' },
      ...{ validUntil: '2026-12-31', lines: [DOOR] },
    }),
  ),
  act(
    'an offer is handed over',
    'POST',
    () => '/api/offers/1/send',
    () => ({ version: 2, validUntil: '2026-12-31', contactId: null }),
  ),
  act(
    'an offer is accepted',
    'POST',
    () => '/api/offers/1/accept',
    () => ({ requestKey: 'accepted-once', by: 'Rosa Vidal', overTermsReason: 'they pay in advance' }),
  ),
  act(
    'what was told wrongly is corrected',
    'POST',
    (at) => `/api/orders/${at.ids.order}/corrections`,
    (at) => ({ requestKey: randomUUID(), eventId: at.told, to: '2026-11-24T09:05:00Z', text: 'misread' }),
  ),
];
