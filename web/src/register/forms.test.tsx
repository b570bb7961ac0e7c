// @vitest-environment jsdom
// The forms of the register: machines, customers and places; two people at once; what is shown before it is done.
import { cleanup, screen, waitFor, within } from '@testing-library/react';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import * as assets from '#api/assets.ts';
import { readCatalogue } from '#api/catalogue.ts';
import * as customers from '#api/customers.ts';
import * as places from '#api/places.ts';
import { listAssets } from '#api/register.ts';
import { signIn } from '#api/session.ts';
import { readReference } from '#api/setup.ts';
import type { Instant, LocalDate, Zone } from '#core/time/index.ts';
import { BulkDialog } from '../assets/bulk.tsx';
import { AssetForm, EditAsset } from '../assets/form.tsx';
import { LifeActs } from '../assets/life.tsx';
import { Meters } from '../assets/meters.tsx';
import { ContactForm, CustomerForm } from '../customers/forms.tsx';
import { PlaceForm, SharePlace } from '../places/place-form.tsx';
import { TreeChange } from '../places/tree-change.tsx';
import { SignIn } from '../shell/sign-in.tsx';
import { type TestHouse, dialogClosed, refusal, testHouse } from '../shell/testing.tsx';

const NOW = Date.UTC(2026, 10, 24, 9, 20) as Instant;
const NODES = [
  { id: 41, name: 'Norvela', parentId: null, assets: 3, retiredOn: null, version: 2 },
  { id: 42, name: 'Floor 1', parentId: 41, assets: 2, retiredOn: null, version: 5 },
  { id: 43, name: 'Pedralonga', parentId: null, assets: 0, retiredOn: null, version: 1 },
] as never[];
const HELD = {
  ...{ tag: 'Q0104', serial: 'STC-1', maker: 'Tarvo', model: 'STC-150', classId: 11, owner: 'customer' },
  ...{ commissioned: '2024-03-01', rentedSince: null },
};
const ASSET = {
  ...HELD,
  ...{ id: 61, version: 7, className: 'Steam steriliser', state: 'in service', now: NOW },
  customer: { id: 2, name: 'Alvorim Hospitals' },
  path: [
    { id: 41, name: 'Norvela' },
    { id: 42, name: 'Floor 1' },
  ],
  warranty: { from: '2024-03-01', until: null, labour: 100, parts: 80, travel: 0, visits: 0 },
} as never;
const ROW = {
  ...HELD,
  ...{ warrantyFrom: '2024-03-01', warrantyUntil: null, warrantyLabour: 100, warrantyParts: 80, warrantyTravel: 0 },
  warrantyVisits: 0,
};
const TODAY = '2026-11-24' as LocalDate;

let house: TestHouse;
const onClose = vi.fn();
beforeEach(() => {
  onClose.mockClear();
  house = testHouse(NOW);
  house.answer(readReference, () => ({
    classes: [
      { id: 11, name: 'Steam steriliser' },
      { id: 12, name: 'Incubator' },
    ],
    calendars: [{ id: 3, name: 'Ribeira service hours' }],
  }));
  house.answer(places.readTree, () => ({
    customer: { id: 2, name: 'Alvorim Hospitals' },
    nodes: NODES,
    withoutPlace: 0,
  }));
});
afterEach(cleanup);

const press = (name: string | RegExp): HTMLElement => screen.getByRole('button', { name });
const field = (label: string | RegExp): HTMLInputElement => screen.getByLabelText(label);
const body = (n = 0): unknown => house.told[n]?.body;
const isClosed = () => waitFor(() => expect(onClose).toHaveBeenCalledOnce());
const retype = async (
  user: { clear(e: Element): Promise<void>; type(e: Element, t: string): Promise<void> },
  label: string | RegExp,
  text: string,
) => {
  await user.clear(field(label));
  await user.type(field(label), text);
};

describe('changing an asset', () => {
  it('joins what two people changed, and names what both did', async () => {
    house.answer(assets.changeAsset, ({ body: sent }) =>
      (sent as { version: number }).version === 7
        ? refusal(null, 'Somebody changed this meanwhile.', {
            ...{ code: 'stale', status: 409 },
            current: { ...ROW, version: 8, serial: 'STC-2', maker: 'Tarvo Works' },
          })
        : { version: 9 },
    );
    const { user } = house.open(<EditAsset asset={ASSET} onClose={onClose} />);
    await retype(user, 'Maker', 'Tarvo Ltd');
    await retype(user, 'Parts borne, %', '50');
    await user.click(press('Save the asset'));
    expect((await screen.findByText(/You both changed: maker/)).textContent).toContain('they wrote “Tarvo Works”');
    expect([field('Serial').value, field('Maker').value, field('Parts borne, %').value]).toEqual([
      'STC-2',
      'Tarvo Ltd',
      '50',
    ]);
    await user.click(press('Save the asset'));
    await isClosed();
    expect(body(1)).toMatchObject({
      version: 8,
      serial: 'STC-2',
      maker: 'Tarvo Ltd',
      warrantyParts: 50,
      warrantyUntil: null,
    });
  });

  it('asks since when one of our own is rented, and takes no date that cannot be read', async () => {
    house.answer(assets.changeAsset, () => ({ version: 8 }));
    const { user } = house.open(<EditAsset asset={ASSET} onClose={onClose} />);
    expect(screen.queryByLabelText('Rented since')).toBeNull();
    await user.selectOptions(field('Owner'), 'own fleet');
    await user.type(field('Rented since'), 'last spring');
    await user.click(press('Save the asset'));
    await waitFor(() => expect(field('Rented since').getAttribute('aria-invalid')).toBe('true'));
    expect(house.told).toEqual([]);
    await retype(user, 'Rented since', '1/4/2026');
    await user.click(press('Save the asset'));
    await isClosed();
    expect(body()).toMatchObject({ owner: 'own fleet', rentedSince: '2026-04-01' });
  });
});

describe('registering an asset', () => {
  it('takes maker and class from a model found by a part of its name', async () => {
    house.answer(readCatalogue, () => ({
      classes: [{ id: 11, name: 'Steam steriliser' }],
      models: [
        { id: 1, maker: 'Tarvo', name: 'STC-150', classId: 11, className: 'Steam steriliser', warrantyMonths: 24 },
        { id: 2, maker: 'Olmen', name: 'INC-40', classId: 12, className: 'Incubator', warrantyMonths: 0 },
      ],
    }));
    house.answer(assets.addAsset, () => ({ id: 70 }));
    const { user } = house.open(<AssetForm customerId={2} locationId={42} nodes={NODES} onClose={onClose} />);
    await user.click(press('Register it'));
    expect(await screen.findAllByText(/This is needed\.|Choose one of those offered\./)).not.toHaveLength(0);
    const model = screen.getByRole('combobox', { name: 'Model of the catalogue' });
    await user.type(model, 'ster');
    await user.click(await screen.findByRole('option', { name: /Tarvo STC-150/ }));
    expect(screen.getByText('Comes with 24 months of warranty.')).toBeDefined();
    await user.type(field('Serial'), 'S-9');
    await user.type(field('Tag'), 'Q0900');
    await user.click(press('Register it'));
    expect(await screen.findByText('elsewhere')).toBeDefined();
    expect(body()).toEqual({
      ...{ maker: 'Tarvo', model: 'STC-150', serial: 'S-9', tag: 'Q0900', commissioned: null, owner: 'customer' },
      ...{ customerId: 2, locationId: 42, classId: 11 },
    });
  });
});

describe('the life of an asset', () => {
  it('is moved to a place, on a day', async () => {
    house.answer(assets.recordLife, () => refusal('act.locationId', 'It stands there already.'));
    const { user } = house.open(<LifeActs asset={ASSET} today={TODAY} maySwap={false} />);
    await user.click(press('Move…'));
    const place = screen.getByRole('combobox', { name: 'Place' });
    expect((place as HTMLInputElement).value).toBe('Norvela › Floor 1');
    await user.click(press('Record: moved'));
    expect(await screen.findByText(/It stands there already\./)).toBeDefined();
    await user.clear(place);
    await user.type(place, 'pedra');
    await user.click(await screen.findByRole('option', { name: 'Pedralonga' }));
    house.answer(assets.recordLife, () => ({ version: 8 }));
    await retype(user, 'On', '20/11');
    await user.click(press('Record: moved'));
    await dialogClosed();
    expect(body(1)).toEqual({
      ...{ version: 7, on: '2026-11-20', text: '' },
      act: { kind: 'moved', locationId: 43, parentId: null },
    });
  });

  it('is swapped only after what goes over was shown', async () => {
    house.answer(listAssets, () => ({
      items: [
        {
          id: 88,
          tag: 'Q0188',
          className: 'Steam steriliser',
          model: 'STC-150',
          serial: 'S-8',
          customerName: 'Alvorim',
        },
      ],
    }));
    house.answer(assets.previewSwap, () => ({
      place: 'Norvela',
      coverageLines: ['AG-2004'],
      schedules: [],
      openOrders: ['WO-10042'],
    }));
    house.answer(assets.swapAsset, () => ({ coverageLines: 1, schedules: 0 }));
    const { user } = house.open(<LifeActs asset={ASSET} today={TODAY} maySwap />);
    await user.click(press('Swap…'));
    expect(press('Swap them')).toHaveProperty('disabled', true);
    await user.click(await screen.findByRole('radio'));
    expect(await screen.findByText(/Still open on the old one, and staying with it: WO-10042\./)).toBeDefined();
    await user.selectOptions(field('The old one goes'), 'to be scrapped');
    await user.click(press('Swap them'));
    await dialogClosed();
    expect(house.told.at(-1)).toMatchObject({
      path: '/api/assets/61/swap',
      body: { version: 7, newAssetId: 88, oldGoes: 'scrapped', on: '2026-11-24', text: '' },
    });
  });
});

describe('a meter', () => {
  const METER = {
    ...{ id: 5, name: 'Run hours', unit: 'h', total: 900, readings: [], channel: null },
    last: { value: 900, at: NOW },
  } as never;

  it('is asked about when it stands lower, and read by the time of its zone', async () => {
    house.answer(assets.addReading, () => ({ done: true }));
    const { user } = house.open(<Meters assetId={61} meters={[METER]} zone={'Europe/Madrid' as Zone} now={NOW} may />);
    await user.click(press('Read Run hours'));
    await user.type(field('Reading, h'), '12');
    await user.selectOptions(field(/Lower than the last one/), 'meter replaced');
    await retype(user, /^Time/, '9:05');
    await user.click(press('Record the reading'));
    await dialogClosed();
    expect(body()).toEqual({ at: '2026-11-24T08:05:00.000Z', value: 12, lowerMeans: 'meter replaced' });
  });

  it('is added with its unit', async () => {
    house.answer(assets.addMeter, () => ({ id: 6 }));
    const { user } = house.open(<Meters assetId={61} meters={[]} zone={'Europe/Madrid' as Zone} now={NOW} may />);
    await user.click(press('Add a meter…'));
    await user.type(screen.getByRole('textbox', { name: 'Meter' }), 'Cycles');
    await user.type(field('Unit'), '1');
    await user.click(press('Add the meter'));
    await waitFor(() => expect(screen.queryByRole('form', { name: 'Meter' })).toBeNull());
    expect(body()).toEqual({ name: 'Cycles', unit: '1' });
  });
});

describe('many assets', () => {
  it('are changed after a look at what will happen; a refusal stands where it was chosen', async () => {
    house.answer(assets.previewBulk, ({ body: sent }) =>
      JSON.stringify(sent).includes('"classId":12')
        ? { will: 2, unchanged: 1, refused: [{ tag: 'Q0105', reason: 'has a form under way' }], remarks: [] }
        : refusal('change', 'Choose another.'),
    );
    house.answer(assets.changeMany, () => ({ will: 2, unchanged: 1, refused: [], remarks: [] }));
    const onDone = vi.fn();
    const { user } = house.open(<BulkDialog ids={[61, 62, 63]} nodes={NODES} onClose={onClose} onDone={onDone} />);
    await user.selectOptions(field('To'), await screen.findByRole('option', { name: 'Steam steriliser' }));
    expect(await screen.findByText(/Choose another\./)).toBeDefined();
    expect(press('Change')).toHaveProperty('disabled', true);
    await user.selectOptions(field('To'), 'Incubator');
    expect(await screen.findByText('2 assets will change, 1 already so, 1 refused:')).toBeDefined();
    await user.click(press('Change 2 assets'));
    await waitFor(() => expect(onDone).toHaveBeenCalledOnce());
    expect(house.told.at(-1)?.body).toEqual({ ids: [61, 62, 63], change: { kind: 'class', classId: 12 } });
  });
});

describe('a customer', () => {
  it('has its limit in cents and nothing where nothing is agreed', async () => {
    house.answer(customers.addCustomer, () => ({ id: 9 }));
    const onAdded = vi.fn();
    const { user } = house.open(<CustomerForm customer={null} onClose={onClose} onAdded={onAdded} />);
    await user.type(field('Name'), 'Fontelo Clinic');
    await user.type(field('Credit limit, EUR'), '1500.5');
    await user.click(press('Add the customer'));
    await waitFor(() => expect(onAdded).toHaveBeenCalledExactlyOnceWith(9));
    expect(body()).toEqual({
      ...{ name: 'Fontelo Clinic', serviceAddress: null, creditDays: null, creditLimit: 150_050, overSince: null },
      rateCardId: null,
    });
  });

  it('gets a contact; an address that cannot be right is said at its field', async () => {
    house.answer(customers.addContact, () => refusal('email', 'Write an e-mail address, such as ana@example.org.'));
    const { user } = house.open(<ContactForm customerId={2} contact={null} onClose={onClose} />);
    await user.type(field('Name'), 'Rui Costa');
    await user.type(field('E-mail'), 'rui');
    await user.click(press('Add the contact'));
    expect(await screen.findByText(/Write an e-mail address/)).toBeDefined();
    expect(field('E-mail').getAttribute('aria-invalid')).toBe('true');
    expect(onClose).not.toHaveBeenCalled();
  });
});

describe('a place', () => {
  it('gives what is typed and takes the rest from above', async () => {
    house.answer(places.addLocation, () => ({ id: 50 }));
    const { user } = house.open(<PlaceForm node={null} parent={NODES[0] as never} customerId={2} onClose={onClose} />);
    await user.type(field('Name'), 'Floor 9');
    await user.type(field('Latitude'), '91');
    await user.click(press('Add the place'));
    expect(await screen.findByText(/From -90 to 90 degrees\./)).toBeDefined();
    await retype(user, 'Latitude', '41.5');
    await user.selectOptions(field('Calendar'), await screen.findByRole('option', { name: 'Ribeira service hours' }));
    await user.click(press('Add the place'));
    await isClosed();
    expect(body()).toEqual({
      ...{
        name: 'Floor 9',
        address: null,
        zone: null,
        accessNote: null,
        calendarId: 3,
        depotId: null,
        joinDays: null,
        latitude: 41.5,
      },
      ...{ longitude: null, parentId: 41, customerId: 2 },
    });
  });

  it('is shared with one more customer', async () => {
    house.answer(customers.listCustomers, () => ({
      items: [
        { id: 2, name: 'Alvorim' },
        { id: 9, name: 'Fontelo' },
      ],
      next: null,
    }));
    house.answer(places.shareLocation, () => ({ done: true }));
    const place = { id: 41, name: 'Norvela', customers: [{ id: 2, name: 'Alvorim' }] } as never;
    const { user } = house.open(<SharePlace place={place} onClose={onClose} />);
    await user.click(screen.getByRole('combobox', { name: 'Share with' }));
    const offered = await screen.findAllByRole('option');
    expect(offered.map((o) => o.textContent)).toEqual(['Fontelo']);
    await user.click(offered[0] as HTMLElement);
    await user.click(press('Share it'));
    await isClosed();
    expect(body()).toEqual({ customerId: 9, share: true });
  });

  it('is moved nowhere below itself, and only after its effect was shown', async () => {
    const effect = {
      places: 1,
      assets: 2,
      changes: [],
      changesTotal: 0,
      covers: [],
      coversTotal: 0,
      dues: [],
      duesTotal: 0,
    };
    house.answer(places.previewMove, ({ body: sent }) =>
      (sent as { parentId: number | null }).parentId === null
        ? refusal('parentId', 'It is at the top already.')
        : effect,
    );
    house.answer(places.moveLocation, () => ({ done: true }));
    const { user } = house.open(
      <TreeChange kind="move" node={NODES[0] as never} nodes={NODES} to={undefined} onClose={onClose} />,
    );
    const under = screen.getByRole('combobox', { name: 'Under' });
    await user.click(under);
    const offered = await screen.findAllByRole('option');
    expect(offered.map((o) => o.textContent)).toEqual(['the top: a site of its own', 'Pedralonga']);
    await user.click(offered[0] as HTMLElement);
    expect(await screen.findByText(/It is at the top already\./)).toBeDefined();
    expect(press('Move to the top')).toHaveProperty('disabled', true);
    await user.clear(under);
    await user.type(under, 'pedra');
    await user.click(await screen.findByRole('option', { name: 'Pedralonga' }));
    expect(await screen.findByText('1 place and 2 assets go along.')).toBeDefined();
    await user.click(press('Move to Pedralonga'));
    await isClosed();
    expect(house.told.at(-1)?.body).toEqual({ parentId: 43, version: 2 });
  });
});

describe('signing in', () => {
  it('keeps the address and says what was wrong', async () => {
    house.answer(signIn, () => refusal('password', 'E-mail and password do not belong together.', { status: 401 }));
    const { user } = house.open(<SignIn session={{ demo: null } as never} />);
    const form = within(screen.getByRole('form', { name: 'Sign in' }));
    await user.type(form.getByLabelText('E-mail'), 'ines@example.org');
    await user.type(form.getByLabelText('Password'), 'wrong wrong wrong');
    await user.click(form.getByRole('button', { name: 'Sign in' }));
    expect(await screen.findByText(/do not belong together\./)).toBeDefined();
    expect(form.getByLabelText<HTMLInputElement>('E-mail').value).toBe('ines@example.org');
  });
});
