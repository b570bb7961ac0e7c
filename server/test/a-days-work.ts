// A day of everybody's work, act by act, over the world of `buildWorld`.
import { randomUUID } from 'node:crypto';
import { act, type Act, type Ids, type Standing } from './act.ts';
import { assetPage, buildWorld, firstClassId, registerAsset, registerCsv, type Caller } from './house.ts';
import { LABOUR_ACTS } from './labour-acts.ts';
import { looseOrder } from './loose-order.ts';
import { ORDER_ACTS } from './order-acts.ts';
import { REGISTER_ACTS } from './register-acts.ts';
import { ROTA_ACTS } from './rota-acts.ts';
import { SETTLE_ACTS } from './settle-acts.ts';
import { STOCK_ACTS } from './stock-acts.ts';
import { PATTERN, UPKEEP_ACTS } from './upkeep-acts.ts';

const HEADER = { from: '2026-01-01', to: '2027-03-31', noticeDays: 90, reminder: '' };

/** In an order in which each act is allowed. */
export const DAY: readonly Act[] = [
  ...REGISTER_ACTS,
  act(
    'a repair is raised',
    'POST',
    () => '/api/orders',
    (at) => ({
      ...{
        assetIds: [at.ids.asset],
        priority: 1,
        cause: 'wear',
        receivedAt: '2026-11-24T09:00:00Z',
        title: 'Fan noisy',
        overTermsReason: 'a hospital',
      },
      requestKey: randomUUID(),
    }),
  ),
  act(
    'somebody arrives',
    'POST',
    (at) => `/api/orders/${at.ids.order}/events`,
    () => ({
      ...{ requestKey: randomUUID(), at: '2026-11-24T09:10:00Z', act: { kind: 'arrived' } },
    }),
  ),
  act(
    'the customer is told which technician comes',
    'POST',
    (at) => `/api/orders/${at.ids.order}/events`,
    (at) => ({
      ...{ requestKey: randomUUID(), at: '2026-11-24T09:12:00Z' },
      act: { kind: 'told', technicianId: at.ids.technician },
    }),
  ),
  ...ORDER_ACTS,
  act(
    'it is back in use',
    'POST',
    (at) => `/api/orders/${at.ids.order}/events`,
    () => ({
      ...{ requestKey: randomUUID(), at: '2026-11-24T09:15:00Z', act: { kind: 'restored' } },
    }),
  ),
  act(
    'the repair is done',
    'POST',
    (at) => `/api/orders/${at.ids.order}/events`,
    () => ({
      ...{ requestKey: randomUUID(), at: '2026-11-24T09:18:00Z' },
      act: {
        kind: 'done',
        text: 'new fan',
        effort: { fault: 'fan', labourMinutes: 60, partsCost: 5000, otherCost: null },
      },
    }),
  ),
  ...LABOUR_ACTS,
  act(
    'a counted right is set',
    'PUT',
    (at) => `/api/agreements/${at.ids.agreement}/allowances`,
    (at) => ({
      ...{
        version: at.version,
        allowances: [{ unit: 'call-outs', amount: 3, period: 'agreement year', carriesOver: false }],
      },
    }),
  ),
  act(
    'a visit is held back',
    'POST',
    () => '/api/upkeep/decide',
    (at) => ({
      ...{ visits: [at.visits[0]], to: '2027-06-30' },
      decision: { kind: 'held', reason: 'site closed', until: null },
    }),
  ),
  act(
    'a visit is let go on',
    'POST',
    () => '/api/upkeep/release',
    (at) => ({ visits: [at.visits[0]] }),
  ),
  act(
    'visits are raised',
    'POST',
    () => '/api/upkeep/commit',
    () => ({ to: '2027-02-01', only: null }),
  ),
  ...UPKEEP_ACTS,
  ...ROTA_ACTS,
  ...STOCK_ACTS,
  ...SETTLE_ACTS,
  act(
    'the hours of a calendar change',
    'PUT',
    (at) => `/api/calendars/${at.ids.calendar}`,
    () => ({
      ...{ name: 'Long office hours', zone: 'Europe/Lisbon', version: 1, closed: [], extraOpen: [] },
      holdsFrom: '2026-11-24',
      weekly: [1, 2, 3, 4, 5, 6, 7].map((d) => (d <= 4 ? [{ from: 480, to: 1140 }] : [])),
    }),
  ),
  act(
    'a job plan is renamed and takes longer',
    'PUT',
    (at) => `/api/job-plans/${at.ids.plan}`,
    () => ({
      ...{ version: 1, name: 'Thorough care', minutes: 150, tasks: [] },
    }),
  ),
  act(
    'an agreement is written',
    'POST',
    () => '/api/agreements',
    (at) => ({
      ...{ ...HEADER, requestKey: randomUUID(), customerId: at.ids.customer, name: 'Second care' },
    }),
  ),
  act(
    'an agreement is amended',
    'POST',
    (at) => `/api/agreements/${at.ids.agreement}/amendments`,
    (at) => ({
      ...{ version: at.version, from: '2026-12-01', reason: 'one year more', changes: [], to: '2028-03-31' },
    }),
  ),
  act(
    'a spare machine takes the place of another',
    'POST',
    (at) => `/api/assets/${at.ids.asset}/swap`,
    (at) => ({
      ...{ version: at.version, newAssetId: at.ids.spare, oldGoes: 'to store', on: '2026-11-24', text: '' },
    }),
  ),
  act(
    'a device is tied to a machine',
    'POST',
    () => '/api/devices',
    (at) => ({ assetId: at.ids.other, key: 'urn:dev:x1' }),
  ),
  act(
    'a limit is set',
    'POST',
    () => '/api/alert-rules',
    (at) => ({
      ...{ name: 'Chamber too warm', assetClassId: at.ids.assetClass, channel: 'chamber', unit: 'Cel' },
      condition: { kind: 'limit', side: 'above', limit: -65, deadband: 2 },
      ...{ onDelaySeconds: 60, offDelaySeconds: 0, holdSeconds: 3600, priority: 1 },
      ...{
        partOnly: false,
        askFirst: false,
        orderText: '',
        likelyCause: '',
        jobPlanId: null,
        watchCalendarId: null,
        suppressedBy: [],
        tells: [],
      },
      ...{ model: null, assetId: null, watched: true },
    }),
  ),
  act(
    'readings raise an alert and an order',
    'POST',
    () => '/api/readings',
    () =>
      [-64, -63, -62].map((v, i) => ({
        ...{ n: 'urn:dev:x1:chamber', u: 'Cel', v, t: Date.parse('2026-11-24T09:00:00Z') / 1000 + i * 60 },
      })),
  ),
  act(
    'a service level promises more from a day on',
    'PUT',
    (at) => `/api/service-levels/${at.ids.level}`,
    () => ({
      ...{ version: 1, holdsFrom: '2026-12-01', name: 'Cold storage plus', pauses: [] },
      targets: { 1: { response: { measure: 'elapsed', minutes: 15 } } },
    }),
  ),
  act(
    'a class gets another name',
    'PUT',
    (at) => `/api/asset-classes/${at.ids.assetClass}`,
    () => ({
      ...{ version: 1, name: 'Deep freezer', jobPlanIds: [], meters: [] },
    }),
  ),
  act(
    'a class gets a form',
    'POST',
    () => '/api/class-forms',
    (at) => ({
      ...{ name: 'Look round', classId: at.ids.assetClass, kinds: ['preventive'], warrantyOnly: false },
      questions: [{ kind: 'yes or no', text: 'Door tight?', mandatory: true, unit: null, from: null, to: null }],
    }),
  ),
  act(
    'a person changes their name',
    'PUT',
    (at) => `/api/people/${at.ids.person}`,
    () => ({
      ...{
        version: 1,
        name: 'Rui Calado',
        email: 'coordinator@example.org',
        role: 'coordinator',
        zone: 'Europe/Lisbon',
      },
      active: true,
    }),
  ),
  act(
    'an agreement gets an owner',
    'PUT',
    (at) => `/api/agreements/${at.ids.agreement}/administration`,
    (at) => ({
      ...{
        version: at.version,
        managerId: at.ids.person,
        contactIds: [],
        costCentre: 'CC-7',
        reminder: 'Call first',
        signOff: true,
      },
    }),
  ),
  act(
    'a place moves below another',
    'POST',
    (at) => `/api/locations/${at.ids.floor}/move`,
    (at) => ({
      ...{ version: at.version, parentId: null },
    }),
  ),
  act(
    'two registrations become one machine',
    'POST',
    () => '/api/assets/merge',
    (at) => ({
      ...{ keptId: at.ids.other, goneId: at.ids.third },
    }),
  ),
  act(
    'a register file is loaded',
    'POST',
    () => '/api/register/import',
    () => ({
      ...{ fileName: 'more.csv', text: registerCsv(6) },
    }),
  ),
  act(
    'an agreement is suspended',
    'POST',
    (at) => `/api/agreements/${at.ids.agreement}/stage`,
    (at) => ({
      ...{ version: at.version, to: 'suspended', reason: 'unpaid' },
    }),
  ),
  act(
    'an agreement is in force again',
    'POST',
    (at) => `/api/agreements/${at.ids.agreement}/stage`,
    (at) => ({
      ...{ version: at.version, to: 'in force', reason: 'paid' },
    }),
  ),
  act(
    'machines are retired together',
    'POST',
    () => '/api/assets/bulk',
    (at) => ({
      ...{ ids: [at.ids.asset], change: { kind: 'retire', reason: 'sold' } },
    }),
  ),
];

const offered = {
  ...{ kind: 'work', assetId: null, text: 'Hang it', quantity: 120, unit: 'h', price: 7200, cost: 3000, discount: 0 },
  ...{ partId: null, supplier: '', taxId: null },
};

/** The world the day is worked in, and which of its things the acts name. */
/** A part and a store at a depot, the first of each. */
async function partInStore(call: Caller): Promise<void> {
  await call('POST', '/api/depots', { name: 'Stock', latitude: 42, longitude: -8.5, capacity: [] });
  const kept = { unit: 'piece', consumable: false, serialTracked: false, taxId: null, retired: false };
  await call('POST', '/api/parts', { ...kept, number: 'TN-SR-110', name: 'Start relay', listPrice: 6450, cost: 2900 });
  const unit = { ...kept, serialTracked: true, warrantyMonths: 12 };
  await call('POST', '/api/parts', { ...unit, number: 'TN-CB-7', name: 'Control board', listPrice: 9000, cost: 4000 });
  await call('POST', '/api/stores', { name: 'Ribeira', kind: 'depot', depotId: 1, personId: null, retired: false });
  await call('POST', '/api/stores', { name: 'Apart', kind: 'quarantine', depotId: 1, personId: null, retired: false });
  const supplier = { name: 'Birch Works', email: '', phone: '', leadDays: 9, note: '', retired: false };
  await call('POST', '/api/suppliers', supplier);
  const bought = [{ partId: 1, storeId: 1, supplierId: 1, thousandths: 1000 }];
  await call('POST', '/api/purchases', { requestKey: randomUUID(), lines: bought });
  const shelf = { version: 0, bin: 'Q1', minimum: null, maximum: null };
  await call('PUT', '/api/stores/1/shelves/1', shelf);
  await call('POST', '/api/stores/1/counts', { requestKey: randomUUID(), of: 'bins', bins: 'Q' });
}

export async function thingsOfTheDay(call: Caller): Promise<Ids> {
  const world = await buildWorld(call);
  await partInStore(call);
  const [asset, other, third] = world.assetIds as [number, number, number];
  const page = await assetPage(call, asset);
  const people = (await call<{ items: { id: number; role: string }[] }>('GET', '/api/people')).body.items;
  const spare = await registerAsset(call, world, { model: 'ULF-720' });
  const order = await call<{ id: number }>('POST', '/api/orders', {
    ...{ assetIds: [asset], priority: 2, cause: 'wear', receivedAt: '2026-11-23T09:00:00Z', title: 'Gasket torn' },
    requestKey: randomUUID(),
  });
  // One unit is part of its machine already.
  await call('POST', `/api/orders/${order.body.id}/parts`, {
    ...{ requestKey: randomUUID(), partId: 2, lineId: 1, thousandths: 1000, serial: 'CB-0001', storeId: null },
  });
  await call('POST', '/api/offers', {
    ...{ requestKey: randomUUID(), customerId: world.customerId, assetIds: [asset], title: 'New door', text: '' },
    ...{ validUntil: '2026-12-24', lines: [offered] },
  });
  const pattern = { ...PATTERN, name: 'Quarterly', classId: null, jobPlanId: world.jobPlanId, calendarId: null };
  const made = await call<{ id: number }>('POST', '/api/patterns', pattern);
  const tasks = [{ text: 'Defrost', mandatory: true }];
  const plan = await call<{ id: number }>('POST', '/api/job-plans', { name: 'Deep clean', minutes: 60, tasks });
  // Of two who add one at once the later number may stand: what an act needs is there before.
  const skill = await call<{ id: number }>('POST', '/api/skills', { name: 'Sealed systems' });
  return {
    ...{ pattern: made.body.id, skill: skill.body.id },
    otherPlan: plan.body.id,
    ...{ customer: world.customerId, agreement: world.agreementId, calendar: world.calendarId },
    ...{ level: world.serviceLevelId, plan: world.jobPlanId, asset, other, third },
    assetClass: await firstClassId(call),
    ...{ place: page.path[0]?.id as number, floor: page.path[1]?.id as number },
    person: people.find((p) => p.role === 'coordinator')?.id as number,
    technician: people.find((p) => p.role === 'technician')?.id as number,
    administrator: people.find((p) => p.role === 'administrator')?.id as number,
    ...{ spare: spare.body.id, order: order.body.id },
  };
}

/** What of how things stand an act looks at: no more is asked for than that. */
function lookedAt({ url, body }: Act, ids: Ids): ReadonlySet<string> {
  const looked = new Set<string>();
  const nothing: Standing = { ids, version: 0, visits: [], tax: 0, crew: 0, told: 0, loose: 0, looseLine: 0 };
  const watched = new Proxy(nothing, {
    get(of, key) {
      looked.add(String(key));
      return Reflect.get(of, key) as unknown;
    },
  });
  try {
    url(watched);
    body?.(watched);
  } catch {
    // It makes something of a visit that is not there: it looked.
  }
  return looked;
}

/** How things stand when an act's turn comes. */
export async function standingBefore(call: Caller, ids: Ids, act: Act): Promise<Standing> {
  const looked = lookedAt(act, ids);
  const visits = looked.has('visits')
    ? (await call<{ proposals: Standing['visits'] }>('GET', '/api/upkeep?to=2027-06-30')).body.proposals
    : [];
  const loose = looked.has('loose') ? await looseOrder(call) : { loose: 0, looseLine: 0 };
  // Sent by two at once, the first number may have gone to the one that was refused.
  const taxes = looked.has('tax') ? (await call<{ items: { id: number }[] }>('GET', '/api/taxes')).body.items : [];
  const crews = looked.has('crew')
    ? (await call<{ items: { id: number }[] }>('GET', '/api/rota/crews?from=2026-11-24')).body.items
    : [];
  const steps = looked.has('told')
    ? (await call<{ items: { id: number; canCorrect: boolean }[] }>('GET', `/api/orders/${ids.order}/clock-history`))
        .body.items
    : [];
  const told = steps.find((s) => s.canCorrect)?.id ?? 0;
  const [tax, crew] = [taxes[0]?.id ?? 0, crews[0]?.id ?? 0];
  const before: Standing = { ids, version: 0, visits, told, tax, crew, ...loose };
  const thing = /^.api.(customers|locations|assets|agreements|schedules).\d+/.exec(act.url(before));
  return thing ? { ...before, version: (await call<{ version: number }>('GET', thing[0])).body.version } : before;
}
