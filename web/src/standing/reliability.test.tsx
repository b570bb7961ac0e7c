// @vitest-environment jsdom
// How dependable machines were: models with their intervals, and machines that failed again.
import { cleanup, screen, within } from '@testing-library/react';
import { afterEach, beforeEach, expect, it } from 'vitest';
import { readReliability, type ModelReliability } from '#api/reliability.ts';
import { testHouse, type TestHouse } from '../shell/testing.tsx';
import { ReliabilityRoom } from './reliability.tsx';

const NOW = Date.UTC(2026, 10, 24, 9, 20);
const model = (name: string, over: Partial<ModelReliability> = {}): ModelReliability => ({
  ...{ className: 'Ultra-low freezer', model: name, machines: 8, failures: 0, repeats: 0 },
  ...{ betweenDays: null, lowerDays: 1268.4, upperDays: null, restoreMinutes: null, restored: 0 },
  ...over,
});
const rowOf = (name: RegExp, table: string): HTMLElement =>
  within(screen.getByRole('table', { name: table })).getByRole('row', { name });

let house: TestHouse;
let asked: string[];
beforeEach(() => {
  house = testHouse(NOW);
  asked = [];
});
afterEach(() => cleanup());

it('says how sure a mean time is, and what never failed', async () => {
  house.answer(readReliability, ({ query }) => {
    asked.push(query.toString());
    return {
      ...{ from: '2025-11-24', to: '2026-11-23' },
      models: [
        model('ULF-540', {
          ...{ failures: 4, repeats: 1, betweenDays: 730.2, lowerDays: 319.1, upperDays: 2137.8 },
          ...{ restoreMinutes: 380, restored: 4 },
        }),
        model('ULF-720'),
      ],
      machines: [
        {
          assetId: 9,
          tag: 'Q0222',
          model: 'ULF-540',
          customer: 'Horta Nova',
          failures: 3,
          repeats: 1,
          restoreMinutes: 95,
        },
      ],
    };
  });
  house.open(<ReliabilityRoom />);
  await screen.findByRole('table', { name: 'By model' });
  expect(rowOf(/ULF-540/, 'By model').textContent).toContain('730 d319 d to 2,138 d6 h 20 min1');
  expect(rowOf(/ULF-720/, 'By model').textContent).toContain('none failedmore than 1,268 d');
  const own = within(rowOf(/Q0222/, 'Machines that failed more than once'));
  expect(own.getByRole('link').getAttribute('href')).toBe('/assets/9');
  // A year back, up to yesterday.
  expect(asked).toEqual(['from=2025-11-24&to=2026-11-23']);
});

it('says so where no machine failed more than once', async () => {
  house.answer(readReliability, () => ({
    from: '2026-11-01',
    to: '2026-11-23',
    models: [model('ULF-720')],
    machines: [],
  }));
  house.open(<ReliabilityRoom />);
  expect(await screen.findByText('No machine failed more than once in this period.')).toBeDefined();
});
