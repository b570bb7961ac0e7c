// @vitest-environment jsdom
// The forms of orders: an act travels with its own part of what was typed, and with its own time.
import { cleanup, screen, waitFor, within } from '@testing-library/react';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { recordAct } from '#api/orders.ts';
import { readReference } from '#api/setup.ts';
import { type TestHouse, dialogClosed, refusal, testHouse } from '../shell/testing.tsx';
import { ActButtons } from './acts.tsx';
import { OrderForms } from './forms.tsx';
import { CoverAndMachine, SeveralMachines } from './machines.tsx';
import { Tasks } from './tasks.tsx';

const NOW = Date.UTC(2026, 10, 24, 9, 20, 30);
const ORDER = {
  id: 12,
  version: 3,
  kind: 'repair',
  stage: 'on site',
  zone: 'Europe/Lisbon',
  worked: null,
  technicianId: 21,
  technician: 'Duarte Melo',
  plannedFor: null,
  now: NOW,
  pauses: [
    { reason: 'no access', counts: true },
    { reason: 'waiting for parts', counts: false },
  ],
  offered: ['planned', 'told', 'paused', 'done', 'note', 'arrived'],
  lines: [
    { id: 3, assetId: 61, tag: 'Q0104', className: 'Freezer', left: null, off: false, visit: null, handedOn: null },
  ],
  missing: [],
  tasks: [{ id: 5, lineId: 3, text: 'Clean the filter', mandatory: true, outcome: null }],
  forms: [
    {
      id: 8,
      name: 'Protocol',
      mandatory: true,
      questions: [
        { text: 'Seal tight?', kind: 'yes or no', mandatory: true, unit: null, from: null, to: null },
        { text: 'Pressure', kind: 'number', mandatory: true, unit: 'bar', from: 1.8, to: 2.2 },
        { text: 'Remark', kind: 'text', mandatory: false, unit: null, from: null, to: null },
      ],
      answers: null,
    },
  ],
} as never;

let house: TestHouse;
beforeEach(() => {
  house = testHouse(NOW);
  house.answer(readReference, () => ({
    technicians: [
      { id: 21, name: 'Duarte Melo' },
      { id: 22, name: 'Ewa Zielonka' },
    ],
  }));
  house.answer(recordAct, () => ({ stage: 'on site' }));
});
afterEach(cleanup);

const press = (name: string | RegExp): HTMLElement => screen.getByRole('button', { name });
const field = (label: string | RegExp): HTMLInputElement => screen.getByLabelText(label);
const sent = (n = 0) => house.told[n]?.body as { at: string; act: unknown; requestKey: string };

describe('a sign-off', () => {
  it('travels with the name and what they signed as; why nobody did is said instead, and a refusal stands at its field', async () => {
    const order = { ...(ORDER as object), offered: ['signed', 'note'] } as never;
    const { user } = house.open(<ActButtons order={order} />);
    await user.click(press('Signed for…'));
    house.answer(recordAct, () => refusal('act.by', 'Write who signed for the work.'));
    await user.click(await screen.findByRole('button', { name: 'Record: signed for' }));
    expect(await screen.findByText(/Write who signed for the work\./)).toBeDefined();
    expect(field(/Who signed/).getAttribute('aria-invalid')).toBe('true');
    house.answer(recordAct, () => ({ stage: 'on site' }));
    await user.type(field(/Who signed/), 'Marta Silva');
    await user.type(field(/As what/), 'shift lead');
    await user.click(press('Record: signed for'));
    await dialogClosed();
    expect(sent(1).act).toEqual({ kind: 'signed', by: 'Marta Silva', function: 'shift lead', text: '' });
  });
});

describe('an act', () => {
  it('left alone happened now, to the second', async () => {
    const { user } = house.open(<ActButtons order={ORDER} />);
    await user.click(press('On site…'));
    await user.click(await screen.findByRole('button', { name: 'Record: on site' }));
    await dialogClosed();
    expect(sent()).toMatchObject({ at: '2026-11-24T09:20:30.000Z', act: { kind: 'arrived' } });
    expect(Object.keys(sent().act as object)).toEqual(['kind']);
  });

  it('with a typed time counts by the minute, and cannot be sent while the time cannot be read', async () => {
    const { user } = house.open(<ActButtons order={ORDER} />);
    await user.click(press('Pause…'));
    const time = await screen.findByLabelText<HTMLInputElement>(/^Time/);
    await user.clear(time);
    await user.type(time, 'noon');
    await user.click(press('Pause the clocks'));
    expect(await screen.findByText(/Give the date and a time such as 09:40\./)).toBeDefined();
    expect(house.told).toEqual([]);
    await user.clear(time);
    await user.type(time, '845');
    await user.click(press('Pause the clocks'));
    await dialogClosed();
    expect(sent()).toMatchObject({
      at: '2026-11-24T08:45:00.000Z',
      act: { kind: 'paused', reason: 'no access', text: '' },
    });
  });

  it('names one of ours, found by a part of the name, or somebody else as typed', async () => {
    const { user } = house.open(<ActButtons order={ORDER} />);
    await user.click(press('Plan…'));
    const who = await screen.findByRole('combobox', { name: 'Technician' });
    expect((who as HTMLInputElement).value).toBe('Duarte Melo');
    await user.clear(who);
    await user.type(who, 'ziel');
    await user.click(await screen.findByRole('option', { name: 'Ewa Zielonka' }));
    await user.clear(field('Goes on'));
    await user.type(field('Goes on'), '26 nov');
    await user.click(press('Plan the order'));
    await dialogClosed();
    expect(sent()).toMatchObject({ act: { kind: 'planned', technicianId: 22, date: '2026-11-26' } });
    // What lies under a dialog is heard again a moment after it closed.
    await user.click(await screen.findByRole('button', { name: 'Told the customer who comes…' }));
    const other = screen.getByRole('combobox', { name: 'Who comes' });
    await user.clear(other);
    await user.type(other, 'A stranger');
    await user.click(await screen.findByRole('option', { name: /A stranger.*not one of ours/ }));
    await user.click(press('Record: customer told who comes'));
    await dialogClosed();
    expect(sent(1)).toMatchObject({ act: { kind: 'told', technicianId: null, technician: 'A stranger' } });
  });

  it('that ends the work takes what it took, hours in minutes and euros in cents, and nothing when nothing was told', async () => {
    const { user } = house.open(<ActButtons order={ORDER} />);
    await user.click(press('Done…'));
    await user.type(field('Labour, h'), '1.5');
    await user.type(field('Parts, EUR'), '86.4');
    await user.click(press('Record: done'));
    await dialogClosed();
    expect(sent().act).toEqual({
      kind: 'done',
      text: '',
      effort: { fault: null, labourMinutes: 90, partsCost: 8640, otherCost: null },
    });
    await user.click(press('Done…'));
    await user.click(press('Record: done'));
    await dialogClosed();
    expect(sent(1).act).toEqual({ kind: 'done', text: '' });
    expect(sent(1).requestKey).not.toBe(sent().requestKey);
  });

  it('that ends the work begins with the time people entered, and says what was written over it', async () => {
    const worked = { ...(ORDER as object), worked: 95 } as never;
    const { user } = house.open(<ActButtons order={worked} />);
    await user.click(press('Done…'));
    await user.click(await screen.findByRole('button', { name: 'Record: done' }));
    await dialogClosed();
    expect(sent().act).toMatchObject({ effort: { labourMinutes: 95 } });
    await user.click(press('Done…'));
    await user.clear(field('Labour, h'));
    await user.type(field('Labour, h'), '2');
    await user.click(press('Record: done'));
    await dialogClosed();
    expect(sent(1).act).toMatchObject({ effort: { labourMinutes: 120 } });
  });

  it('that is refused keeps what was typed, and is sent again under the same key', async () => {
    house.answer(recordAct, () => refusal('act.text', 'Say more than that.'));
    const { user } = house.open(<ActButtons order={ORDER} />);
    await user.click(press('Note…'));
    await user.type(field('Note'), 'Hm');
    await user.click(press('Add the note'));
    expect(await screen.findByText(/Say more than that\./)).toBeDefined();
    expect(field('Note').value).toBe('Hm');
    await user.click(press('Add the note'));
    await waitFor(() => expect(house.told).toHaveLength(2));
    expect(sent(1).requestKey).toBe(sent().requestKey);
  });
});

describe('a task', () => {
  it('is ticked at once, and left with its reason', async () => {
    const { user } = house.open(<Tasks order={ORDER} />);
    await user.click(field('Clean the filter'));
    await waitFor(() => expect(house.told).toHaveLength(1));
    expect(sent().act).toEqual({ kind: 'task', taskId: 5, outcome: 'done', text: '' });
    await user.click(press('leave…'));
    await user.type(field('Why it is left'), 'No ladder');
    await user.click(press('Leave it'));
    await waitFor(() => expect(house.told).toHaveLength(2));
    expect(sent(1).act).toEqual({ kind: 'task', taskId: 5, outcome: 'left', text: 'No ladder' });
  });
});

describe('an order of several machines', () => {
  const line = (id: number, over: object = {}) => ({
    ...{ id, assetId: 60 + id, tag: `Q010${id}`, serial: `S${id}`, model: 'STC-150', className: 'Steriliser' },
    ...{ place: 'Norvela', minutes: 60, left: null, off: false, finishedAt: null, restoredAt: null, handedOn: null },
    former: [],
    verdict: { sentence: 'Covered by Alvorim care.', promise: '', considered: [] },
    visit: {
      ...{ agreementId: 4, agreement: 'AG-2004', due: '2026-12-01', windowFrom: '2026-11-26', windowTo: '2026-12-08' },
      ...{ completedOn: null, beyond: null },
    },
    ...over,
  });
  const several = {
    ...(ORDER as object),
    ...{ minutes: 180, address: null, reminders: [] },
    lines: [
      line(1),
      line(2, { verdict: { sentence: 'Not covered.', promise: '', considered: [] } }),
      line(3, { left: 'the lab was locked' }),
    ],
    tasks: [1, 2, 3].map((id) => ({
      id: 50 + id,
      lineId: id,
      text: 'Clean the filter',
      mandatory: true,
      outcome: null,
    })),
  } as never;

  it('shows each with its window and result, and says the same cover once', () => {
    house.open(
      <>
        <SeveralMachines order={several} />
        <CoverAndMachine order={several} />
      </>,
    );
    const rows = within(screen.getByRole('table')).getAllByRole('row').slice(1);
    expect(rows.map((r) => within(r).getAllByRole('cell')[3]?.textContent)).toEqual([
      'to doback in usefinishleave…swap…',
      'to doback in usefinishleave…swap…',
      'left undone: the lab was lockeddo it after all',
    ]);
    expect(screen.getByText('Q0101, Q0103')).toBeDefined();
    expect(screen.getAllByText(/Covered by Alvorim care/)).toHaveLength(1);
  });

  it('leaves one with the reason, and takes one up again at once', async () => {
    const { user } = house.open(<SeveralMachines order={several} />);
    await user.click(press('Leave Q0101…'));
    await user.type(field(/^Why the machine is left undone/), 'in use until tomorrow');
    await user.click(press('Leave it'));
    await waitFor(() => expect(house.told).toHaveLength(1));
    expect(sent().act).toEqual({ kind: 'line', lineId: 1, outcome: 'left', text: 'in use until tomorrow' });
    await user.click(press('Do Q0103 after all'));
    await waitFor(() => expect(house.told).toHaveLength(2));
    expect(sent(1).act).toEqual({ kind: 'line', lineId: 3, outcome: 'to do', text: '' });
  });

  it('asks the tasks of each, and none of one that is left', async () => {
    const { user } = house.open(<Tasks order={several} />);
    const boxes = screen.getAllByRole<HTMLInputElement>('checkbox', { name: 'Clean the filter' });
    expect(boxes.map((b) => b.disabled)).toEqual([false, false, true]);
    await user.click(boxes[1] as HTMLElement);
    await waitFor(() => expect(sent().act).toMatchObject({ kind: 'task', taskId: 52, outcome: 'done' }));
  });
});

describe('a form of an order', () => {
  it('says what is outside, and at the question what is refused', async () => {
    house.answer(recordAct, () => refusal('act.answers.0', 'Answer this one.'));
    const { user } = house.open(<OrderForms order={ORDER} />);
    await user.click(press('Fill in Protocol'));
    await user.type(field('Pressure, bar'), '2.5');
    expect(screen.getByText(/Outside what is expected: 1\.8 to 2\.2 bar/)).toBeDefined();
    await user.click(press('Save the answers'));
    expect(await screen.findByText(/Answer this one\./)).toBeDefined();
    await user.click(screen.getByRole('radio', { name: 'yes' }));
    house.answer(recordAct, () => ({ stage: 'on site' }));
    await user.click(press('Save the answers'));
    await dialogClosed();
    expect(sent(1).act).toEqual({ kind: 'form', formId: 8, answers: [true, 2.5, null] });
  });
});
