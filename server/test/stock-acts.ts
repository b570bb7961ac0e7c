// What is done in a day with stock: stores, shelves, and parts that come in, go over and are thrown away.
import { randomUUID } from 'node:crypto';
import { act, type Act } from './act.ts';

const SUPPLIER = {
  ...{ name: 'Alder Mill', email: 'orders@alder.example.org', phone: '', leadDays: 5, note: '', retired: false },
};
const STORE = { name: 'Back room', kind: 'quarantine', depotId: 1, personId: null, retired: false };
const lines = [{ partId: 1, thousandths: 2000 }];

export const STOCK_ACTS: readonly Act[] = [
  act(
    'a store is added',
    'POST',
    () => '/api/stores',
    () => STORE,
  ),
  act(
    'a store is changed',
    'PUT',
    () => '/api/stores/3',
    () => ({ ...STORE, name: 'Shop', kind: 'depot', version: 1 }),
  ),
  act(
    'a store says how it keeps a part',
    'PUT',
    () => '/api/stores/1/shelves/1',
    () => ({
      ...{ version: 1, bin: 'A1', minimum: 1000, maximum: 4000 },
    }),
  ),
  act(
    'parts are received',
    'POST',
    () => '/api/stock/receipts',
    () => ({
      ...{ requestKey: randomUUID(), storeId: 1, text: 'delivery note 7' },
      lines: lines.map((l) => ({ ...l, unitPrice: 950 })),
    }),
  ),
  act(
    'parts are carried to another store',
    'POST',
    () => '/api/stock/transfers',
    () => ({
      ...{ requestKey: randomUUID(), fromId: 1, toId: 3, text: '', lines: [{ partId: 1, thousandths: 1000 }] },
    }),
  ),
  act(
    'parts are thrown away',
    'POST',
    () => '/api/stock/scraps',
    () => ({
      ...{ requestKey: randomUUID(), storeId: 3, text: 'broken', lines: [{ partId: 1, thousandths: 1000 }] },
    }),
  ),
  act(
    'how stock is kept is changed',
    'PUT',
    () => '/api/store-settings',
    () => ({ planWaiting: false, holdDays: 60, reviewDays: 7, approvalLimit: 100_000, version: 1 }),
  ),
  act(
    'parts are received there',
    'POST',
    () => '/api/stock/receipts',
    () => ({
      ...{ requestKey: randomUUID(), storeId: 3, text: 'delivery note 8' },
      lines: lines.map((l) => ({ ...l, unitPrice: 950 })),
    }),
  ),
  act(
    'an order needs more of a part than there is',
    'PUT',
    (at) => `/api/orders/${at.loose}/needs`,
    (at) => ({ lineId: at.looseLine, partId: 1, thousandths: 30_000, version: 0 }),
  ),
  act(
    'it goes without the rest',
    'PUT',
    () => '/api/needs/1/anyway',
    () => ({ reason: 'the customer has one', version: 1 }),
  ),
  act(
    'less is held for it',
    'PUT',
    () => '/api/needs/1/holds/3',
    () => ({ thousandths: 1000, version: 2 }),
  ),
  act(
    'a supplier is added',
    'POST',
    () => '/api/suppliers',
    () => SUPPLIER,
  ),
  act(
    'a supplier takes longer',
    'PUT',
    () => '/api/suppliers/2',
    () => ({ ...SUPPLIER, leadDays: 9, version: 1 }),
  ),
  act(
    'the supplier has a part',
    'PUT',
    () => '/api/parts/1/suppliers/2',
    () => ({ number: 'AM-1', unitPrice: 900, pack: 1000, leadDays: null, preferred: true, version: 0 }),
  ),
  act(
    'a part is bought',
    'POST',
    () => '/api/purchases',
    () => ({
      requestKey: randomUUID(),
      lines: [{ partId: 1, storeId: 3, supplierId: 2, thousandths: 4000, needs: [{ needId: 1, thousandths: 1000 }] }],
    }),
  ),
  act(
    'it is less of it',
    'PUT',
    () => '/api/purchases/2/parts/1',
    () => ({ thousandths: 3000, unitPrice: 900, promisedOn: null, version: 1 }),
  ),
  act(
    'the order is approved',
    'POST',
    () => '/api/purchases/2/approve',
    () => ({ version: 3 }),
  ),
  act(
    'the order is sent',
    'POST',
    () => '/api/purchases/2/send',
    () => ({ version: 4, byMail: false }),
  ),
  act(
    'some of it comes',
    'POST',
    () => '/api/purchases/2/deliveries',
    () => ({
      ...{ requestKey: randomUUID(), text: 'note 9' },
      lines: [{ lineId: 2, thousandths: 1000, refused: 1000, why: 'bent' }],
    }),
  ),
  act(
    'what came is invoiced dearer',
    'PUT',
    () => '/api/purchases/2/parts/1/invoiced',
    () => ({ unitPrice: 950, version: 3 }),
  ),
  act(
    'the rest does not come',
    'POST',
    () => '/api/purchases/2/parts/1/short',
    () => ({ version: 4, reason: 'not made any more' }),
  ),
  act(
    'it is picked',
    'POST',
    () => '/api/stores/3/picks',
    () => ({ requestKey: randomUUID(), lines: [{ needId: 1, thousandths: 1000, why: 'the rest is bent' }] }),
  ),
  act(
    'a part stands in for it',
    'PUT',
    () => '/api/parts/1/alternatives',
    () => ({ others: [2], seen: [] }),
  ),
  act(
    'another is taken instead',
    'PUT',
    () => '/api/needs/1/instead',
    () => ({ partId: 2, version: 3 }),
  ),
  act(
    'an old part comes back',
    'POST',
    () => '/api/stock/old-parts',
    (at) => ({
      ...{ requestKey: randomUUID(), storeId: 2, orderId: at.ids.order, partId: 1, thousandths: 1000 },
      ...{ reason: 'core', text: '' },
    }),
  ),
  act(
    'it goes to its maker',
    'POST',
    () => '/api/supplier-returns',
    () => ({
      ...{ requestKey: randomUUID(), storeId: 2, supplierId: 1, reason: 'core', reference: 'RA 1', text: '' },
      lines: [{ partId: 1, thousandths: 1000 }],
    }),
  ),
  act(
    'the maker gives something for it',
    'PUT',
    () => '/api/supplier-returns/1/answer',
    () => ({ version: 1, stage: 'credited', credit: 500, text: '', serials: [] }),
  ),
  act(
    'a unit becomes a machine of its own',
    'POST',
    () => '/api/used-parts/1/asset',
    (at) => ({ classId: at.ids.assetClass, maker: 'Alder', model: 'CB', tag: 'T-CB-1' }),
  ),
  act(
    'a list of the store is loaded',
    'POST',
    () => '/api/stores/1/shelves/import',
    () => ({ requestKey: randomUUID(), text: 'number,bin,counted\r\nTN-SR-110,Z9,7\r\n', without: 0 }),
  ),
  act('figures of stores are worked out', 'POST', () => '/api/store-figures'),
  act(
    'a count is begun',
    'POST',
    () => '/api/stores/3/counts',
    () => ({ requestKey: randomUUID(), of: 'cycle', most: 5 }),
  ),
  act(
    'a part is counted',
    'PUT',
    () => '/api/stock-counts/1/parts/1',
    () => ({ thousandths: 4000, serials: [], version: 1 }),
  ),
  act(
    'the count stands',
    'POST',
    () => '/api/stock-counts/1/approve',
    () => ({ version: 1 }),
  ),
  act(
    'an order is called off',
    'POST',
    () => '/api/purchases/1/call-off',
    () => ({ version: 2, reason: 'found one' }),
  ),
  act('what runs low is looked for', 'POST', () => '/api/stores/low'),
  act('the supplier does not have it any more', 'DELETE', () => '/api/parts/1/suppliers/2'),
];
