import { describe, expect, it } from 'vitest';
import { asInstant, asZone, type Instant } from '../time/index.ts';
import { planContacts, planCustomers, planMeters, planPlaces, planReadings, type TableRow } from './index.ts';

const row = (line: number, cells: Record<string, string>): TableRow => ({ line, cells });
const columns = (planned: { bad: readonly { line: number; column: string }[] }) =>
  planned.bad.map((b) => [b.line, b.column]);
const customers = new Set(['alpha']);

describe('importing customers', () => {
  const held = new Map([
    ['alpha', { id: 1, version: 3, serviceAddress: 'Old Road 1', creditDays: 30, creditLimit: null }],
  ]);
  it('creates new ones, changes what is said otherwise, leaves alone what is not said', () => {
    const planned = planCustomers(
      [
        row(2, { name: 'Alpha', service_address: 'New Road 2', credit_days: '' }),
        row(3, { name: 'Beta', credit_limit: '1200,50' }),
      ],
      held,
    );
    expect(planned.updates).toEqual([{ id: 1, version: 3, changes: { serviceAddress: 'New Road 2' }, line: 2 }]);
    expect(planned.creates).toEqual([
      { name: 'Beta', serviceAddress: null, creditDays: null, creditLimit: 120_050, line: 3 },
    ]);
  });
  it('the same again changes nothing', () =>
    expect(planCustomers([row(2, { name: 'ALPHA', service_address: 'Old Road 1', credit_days: '30' })], held)).toEqual({
      creates: [],
      updates: [],
      unchanged: 1,
      bad: [],
    }));
  it('names line and column of what is wrong', () =>
    expect(
      columns(
        planCustomers(
          [
            row(2, { name: '' }),
            row(3, { name: 'B', credit_days: '1.5' }),
            row(4, { name: 'b' }),
            row(5, { name: 'C', credit_limit: 'much' }),
          ],
          held,
        ),
      ),
    ).toEqual([
      [2, 'name'],
      [3, 'credit_days'],
      [4, 'name'],
      [5, 'credit_limit'],
    ]));
});

describe('importing contacts', () => {
  it('takes those of known customers, told by e-mail when nothing else is said', () => {
    const planned = planContacts([row(2, { customer: 'Alpha', name: 'Eva' })], customers, new Map());
    expect(planned.creates).toMatchObject([{ customer: 'Alpha', name: 'Eva', preferred: 'e-mail' }]);
  });
  it('names unknown customers, broken addresses and unknown ways to be told', () =>
    expect(
      columns(
        planContacts(
          [
            row(2, { customer: 'Gamma', name: 'Eva' }),
            row(3, { customer: 'Alpha', name: 'Ana', email: 'ana(at)x' }),
            row(4, { customer: 'Alpha', name: 'Rui', preferred: 'pigeon' }),
          ],
          customers,
          new Map(),
        ),
      ),
    ).toEqual([
      [2, 'customer'],
      [3, 'email'],
      [4, 'preferred'],
    ]));
});

describe('importing places', () => {
  it('takes a path however it is spaced', () => {
    const planned = planPlaces([row(2, { path: ' Site>Lab 4 ', zone: 'Europe/Lisbon' })], customers, new Map());
    expect(planned.creates).toMatchObject([{ path: 'Site > Lab 4', zone: 'Europe/Lisbon' }]);
  });
  it('names half a position, too many levels, unknown zones', () =>
    expect(
      columns(
        planPlaces(
          [
            row(2, { path: 'A', latitude: '41.5' }),
            row(3, { path: 'a>b>c>d>e>f>g>h>i>j>k>l>m' }),
            row(4, { path: 'B', zone: 'Moon/Sea' }),
            row(5, { path: 'C', latitude: '91', longitude: '2' }),
          ],
          customers,
          new Map(),
        ),
      ).map(([line]) => line),
    ).toEqual([2, 3, 4, 5, 5]));
});

describe('importing meters and readings', () => {
  it('a meter keeps its unit', () => {
    const held = new Map([['q1|hours', { unit: 'h' }]]);
    const planned = planMeters(
      [
        row(2, { tag: 'Q1', meter: 'Hours', unit: 'h' }),
        row(3, { tag: 'Q1', meter: 'Cycles', unit: 'n' }),
        row(4, { tag: 'Q1', meter: 'hours', unit: 'min' }),
        row(5, { tag: 'Q9', meter: 'Hours', unit: 'h' }),
      ],
      new Map([['Q1', 7]]),
      held,
    );
    expect(planned.unchanged).toBe(1);
    expect(planned.creates).toEqual([{ assetId: 7, name: 'Cycles', unit: 'n', line: 3 }]);
    expect(planned.bad.map((b) => b.line)).toEqual([4, 4, 5]);
  });

  const noon = (date: string): Instant => asInstant(`${date}T12:00:00Z`);
  const held = new Map([
    ['q1|hours', { id: 1, zone: asZone('UTC'), readings: [{ at: noon('2026-01-10'), value: 100 }] }],
  ]);
  const reading = (line: number, date: string, value: string) => row(line, { tag: 'Q1', meter: 'Hours', date, value });
  it('come in any order, and the same one again changes nothing', () => {
    const planned = planReadings(
      [reading(2, '01/03/2026', '300'), reading(3, '01/02/2026', '200'), reading(4, '10/01/2026', '100')],
      held,
      'dd/mm/yyyy',
      noon('2026-06-01'),
    );
    expect(planned.creates.map((c) => [c.line, c.value])).toEqual([
      [3, 200],
      [2, 300],
    ]);
    expect([planned.unchanged, planned.bad]).toEqual([1, []]);
  });
  it('lower ones, earlier ones, future ones and words are named', () =>
    expect(
      columns(
        planReadings(
          [
            reading(2, '2026-02-01', '90'),
            reading(3, '2025-12-01', '95'),
            reading(4, '2027-02-01', '400'),
            reading(5, '2026-02-02', 'many'),
            row(6, { tag: 'Q1', meter: 'Litres', date: '2026-02-01', value: '1' }),
            reading(7, 'soon', '400'),
          ],
          held,
          'yyyy-mm-dd',
          noon('2026-06-01'),
        ),
      ),
    ).toEqual([
      [2, 'value'],
      [3, 'date'],
      [4, 'date'],
      [5, 'value'],
      [6, 'meter'],
      [7, 'date'],
    ]));
});
