// @vitest-environment jsdom
// Importing a file: nothing loads before it was looked through, an unclear date asks, and quick choices end in the last one.
import { cleanup, screen, waitFor } from '@testing-library/react';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { beginImport, listImports, readImport, setImport, startImport, type ImportPage as Page } from '#api/imports.ts';
import { refusal, testHouse, type TestHouse } from '../shell/testing.tsx';
import { ImportPage } from './import.tsx';

const NOW = Date.UTC(2026, 10, 24, 9, 20);
const PAGE: Page = {
  ...{ id: 3, kind: 'assets', fileName: 'register.csv', state: 'read', rows: 3, rowsDone: 0, remembered: false },
  settings: {
    ...{ encoding: 'utf-8', delimiter: ',', dateFormat: 'yyyy-mm-dd', key: 'tag' },
    mapping: { customer: 0, class: 1, maker: 2, model: 3, serial: 4, tag: 5 },
  },
  head: ['customer', 'class', 'maker', 'model', 'serial', 'tag', 'colour'],
  sample: [['Alvorim', 'Steam steriliser', 'Tarvo', 'STC-150', 'S-1', 'Q1', 'grey']],
  needsDateFormat: false,
  tally: { created: { assets: 2, customers: 1 }, updated: 0, unchanged: 0, refused: 1 },
  bad: [{ line: 4, column: 'serial', message: 'The serial S-1 stands on line 2 already.', rows: 1, lines: [4] }],
  ...{ badTotal: 1, notes: [], notesTotal: 0, problem: null, createdAt: NOW as never, who: 'Inês Teixeira' },
};

let house: TestHouse;
beforeEach(() => {
  house = testHouse(NOW);
  house.answer(listImports, () => ({ items: [] }));
  house.answer(beginImport, () => PAGE);
});
afterEach(cleanup);

const file = (text = 'customer,class\nAlvorim,Steam steriliser\n'): File =>
  new File([text], 'register.csv', { type: 'text/csv' });
const field = (label: string | RegExp): HTMLSelectElement => screen.getByLabelText(label);

describe('a file', () => {
  it('is handed in by name and kind, and says what would load and what would not, with the remedy', async () => {
    const { user } = house.open(<ImportPage />);
    await user.upload(screen.getByLabelText('File'), file());
    expect(await screen.findByText('Dry run of register.csv: 3 rows')).toBeDefined();
    expect(house.told[0]?.path).toBe('/api/imports');
    expect(screen.getByText('The serial S-1 stands on line 2 already.')).toBeDefined();
    expect(screen.getByRole('button', { name: 'Load 2 assets' })).toBeDefined();
  });

  it('loads only when told to, and shows how far it came', async () => {
    house.answer(startImport, () => ({ done: true }));
    house.answer(readImport, () => ({ ...PAGE, state: 'running', rowsDone: 1 }));
    const { user } = house.open(<ImportPage />);
    await user.upload(screen.getByLabelText('File'), file());
    await user.click(await screen.findByRole('button', { name: 'Load 2 assets' }));
    await waitFor(() => expect(house.told.at(-1)?.path).toBe('/api/imports/3/run'));
    expect(await screen.findByText(/register\.csv:/)).toBeDefined();
    expect(screen.queryByText(/^Dry run of/)).toBeNull();
  });

  it('with dates that can be read two ways asks for their order and does not load before', async () => {
    house.answer(beginImport, () => ({ ...PAGE, needsDateFormat: true }));
    house.answer(setImport, ({ body }) => ({ ...PAGE, settings: body, needsDateFormat: false }));
    const { user } = house.open(<ImportPage />);
    await user.upload(screen.getByLabelText('File'), file());
    expect(await screen.findByText(/dates that can be read two ways: choose the order/)).toBeDefined();
    expect(screen.queryByRole('button', { name: /^Load/ })).toBeNull();
    await user.selectOptions(field('Dates are written'), 'dd/mm/yyyy');
    expect(await screen.findByRole('button', { name: 'Load 2 assets' })).toBeDefined();
    expect(house.told.at(-1)?.body).toMatchObject({ dateFormat: 'dd/mm/yyyy' });
  });

  it('mapped twice in a hurry ends as it was chosen last', async () => {
    house.answer(setImport, ({ body }) => ({ ...PAGE, settings: body }));
    const { user } = house.open(<ImportPage />);
    await user.upload(screen.getByLabelText('File'), file());
    await screen.findByText('Dry run of register.csv: 3 rows');
    await user.selectOptions(field('Delimiter'), 'semicolon');
    await user.selectOptions(field('Delimiter'), 'tab');
    await waitFor(() => expect(house.told.at(-1)?.body).toMatchObject({ delimiter: '\t' }));
    expect(field('Delimiter').value).toBe('\t');
  });

  it('that cannot be read says why, and the next one can be handed in', async () => {
    house.answer(beginImport, () => refusal(null, 'The file holds no row below its head.'));
    const { user } = house.open(<ImportPage />);
    await user.upload(screen.getByLabelText('File'), file(''));
    expect((await screen.findByRole('alert')).textContent).toContain('The file holds no row below its head.');
    house.answer(beginImport, () => PAGE);
    await user.upload(screen.getByLabelText('File'), file());
    expect(await screen.findByText('Dry run of register.csv: 3 rows')).toBeDefined();
    expect(screen.queryByRole('alert')).toBeNull();
  });
});
