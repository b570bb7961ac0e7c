// What leaves the house: lists as CSV (RFC 4180), labels as PDF, codes scanned back; and customers with their people.
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { parse } from 'csv-parse/sync';
import type { CustomerPage } from '#api/customers.ts';
import type { AssetPage } from '#api/register.ts';
import { buildWorld, finding, openHouse, type Caller, type TestHouse, type World } from './house.ts';

let house: TestHouse;
let call: Caller;
let world: World;
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  world = await buildWorld(call);
});
afterAll(() => house.close());

const rowsOf = async (url: string): Promise<string[][]> => {
  const { body } = await call<{ text: string }>('GET', url);
  expect(body.text.startsWith('\ufeff')).toBe(true);
  expect(body.text).toContain('\r\n');
  return parse(body.text, { bom: true });
};

describe('lists as CSV', () => {
  it('assets, filtered as the list is, with place, address and cover', async () => {
    const [head, ...rows] = await rowsOf('/api/assets.csv?search=Q101');
    expect(head).toContain('cover today');
    expect(rows).toEqual([
      [
        'Q101',
        'ULF720-Q101',
        'Ultra-low freezer',
        'Tindrel',
        'ULF-720',
        'Norvela Diagnostics',
        'Norvela · Floor 1 · Lab 1',
        '72 Rua do Cais, Norvela',
        'in service',
        'customer',
        '2024-01-10',
        '',
        'AG-2001 Full care',
      ],
    ]);
    expect(await rowsOf('/api/assets.csv')).toHaveLength(4);
  });
  it('customers, agreements and orders, text that a spreadsheet would run kept as text', async () => {
    const name = '=cmd|run';
    await call('POST', '/api/customers', {
      name,
      serviceAddress: '1 Quay, Harbour',
      creditDays: 30,
      creditLimit: 100_000,
      overSince: '2026-11-01',
    });
    expect(await rowsOf('/api/customers.csv?search=cmd')).toEqual([
      ['customer', 'service address', 'assets', 'over credit terms since'],
      [`'${name}`, '1 Quay, Harbour', '0', '2026-11-01'],
    ]);
    expect((await rowsOf('/api/agreements.csv?stage=in%20force'))[1]?.slice(0, 4)).toEqual([
      'AG-2001',
      'Full care',
      'Norvela Diagnostics',
      'in force',
    ]);
    expect(await rowsOf('/api/agreements.csv?stage=ended')).toHaveLength(1);
    const order = {
      assetIds: [world.assetIds[0]],
      priority: 1,
      cause: 'wear',
      receivedAt: '2026-11-24T09:00:00Z',
      title: 'Warm, and “loud”',
      requestKey: 'one-order-only',
    };
    expect((await call('POST', '/api/orders', order)).status).toBe(200);
    expect((await rowsOf('/api/orders.csv?show=open'))[1]).toContain('Warm, and “loud”');
  });
});

describe('labels', () => {
  it('are a PDF with tag and serial of each asset, and their code leads back to it', async () => {
    const answer = await call<{ text: string }>('GET', `/api/labels.pdf?customer=${world.customerId}`);
    expect(answer.body.text.startsWith('%PDF-')).toBe(true);
    const scanned = await call('GET', `/api/scan?code=${encodeURIComponent('http://127.0.0.1/assets/tag/Q101')}`);
    expect(scanned.body).toEqual({ assetId: world.assetIds[1], part: null, read: 'Q101' });
    expect((await call('GET', '/api/scan?code=ulf720q102')).body).toMatchObject({ assetId: world.assetIds[2] });
    expect((await call('GET', '/api/scan?code=elsewhere')).body).toEqual({
      assetId: null,
      part: null,
      read: 'elsewhere',
    });
  });
  it('of nothing, or of everything, are refused', async () => {
    expect((await call('GET', '/api/labels.pdf')).status).toBe(422);
    expect((await call('GET', '/api/labels.pdf?ids=999999')).status).toBe(404);
  });
});

describe('a customer', () => {
  const page = async (): Promise<CustomerPage> =>
    (await call<CustomerPage>('GET', `/api/customers/${world.customerId}`)).body;
  it('keeps contacts, notes that pop up, and wishes for technicians', async () => {
    const path = `/api/customers/${world.customerId}`;
    const contact = { name: 'Eva Gândara', role: 'Quality', email: '', phone: '+351 900 111 222', preferred: 'phone' };
    const { id } = (await call<{ id: number }>('POST', `${path}/contacts`, contact)).body;
    expect((await call('POST', `${path}/contacts`, contact)).body.errors[0]?.field).toBe('name');
    expect((await call('PUT', `/api/contacts/${id}`, { ...contact, role: 'Head', version: 1 })).status).toBe(200);
    expect((await call('PUT', `/api/contacts/${id}`, { ...contact, version: 1 })).body.code).toBe('stale');
    await call('POST', `${path}/notes`, { text: 'Badge at the gate', popsUp: true });
    await call('POST', `${path}/notes`, { text: 'Invoices by e-mail', popsUp: false });
    const asset = (await call<AssetPage>('GET', `/api/assets/${world.assetIds[0]}`)).body;
    expect(asset.customerNotes).toEqual(['Badge at the gate']);
    const technician = (await call<{ technicians: { id: number }[] }>('GET', '/api/reference')).body.technicians[0];
    await call('PUT', `${path}/technicians`, { personId: technician?.id, wish: 'preferred' });
    await call('PUT', `${path}/technicians`, { personId: technician?.id, wish: 'blocked' });
    expect((await call('PUT', `${path}/technicians`, { personId: 1, wish: 'blocked' })).status).toBe(404);
    const shown = await page();
    expect(shown.contacts).toMatchObject([{ name: 'Eva Gândara', role: 'Head', email: null }]);
    expect(shown.technicians).toMatchObject([{ wish: 'blocked' }]);
    expect((await call('DELETE', `/api/contacts/${id}`)).status).toBe(200);
    expect((await page()).contacts).toEqual([]);
  });
  it('renamed, its machines are found by the new name', async () => {
    const { version, serviceAddress } = await page();
    const change = { name: 'Outeiro Works', serviceAddress, creditDays: null, creditLimit: null, overSince: null };
    expect((await call('PUT', `/api/customers/${world.customerId}`, { ...change, version })).status).toBe(200);
    const found = await finding(call)('outeiro');
    expect([found.asset.length, found.agreement.length]).toEqual([3, 1]);
    expect((await call('PUT', `/api/customers/${world.customerId}`, { ...change, version })).body.code).toBe('stale');
  });
});
