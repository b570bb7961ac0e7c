// @vitest-environment jsdom
// Jobs and the outbox: what failed says why and is tried again, what left can be read, words are changed and put back.
import { cleanup, screen, waitFor } from '@testing-library/react';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { beginJob, listJobs, runJob } from '#api/jobs.ts';
import * as outbox from '#api/outbox.ts';
import { Outbox } from '../outbox/outbox.tsx';
import { refusal, testHouse, type TestHouse } from '../shell/testing.tsx';
import { Jobs } from './jobs.tsx';

const NOW = Date.UTC(2026, 10, 24, 9, 20);
const DEAD = {
  ...{ id: 41, kind: 'deliver', says: 'Hand over what leaves the house', state: 'dead', dueAt: NOW, startedAt: NOW },
  ...{ endedAt: NOW, tries: 5, progress: null, problem: 'The gateway does not answer.' },
};
const KINDS = [
  { kind: 'sweep', says: 'Clear away ended sessions', every: 'every hour' },
  { kind: 'import', says: 'Load a file', every: null },
];

let house: TestHouse;
beforeEach(() => {
  house = testHouse(NOW, 'administrator');
});
afterEach(cleanup);

describe('jobs', () => {
  it('that failed come first, with the reason, and are tried again', async () => {
    house.answer(listJobs, ({ query }) => ({
      ...{ items: query.get('show') === 'dead' ? [DEAD] : [], next: null, dead: 1, kinds: KINDS, now: NOW },
    }));
    house.answer(runJob, () => ({ done: true }));
    const { user } = house.open(<Jobs />);
    expect(await screen.findByText('1 job failed and wait for somebody to look.')).toBeDefined();
    expect(screen.getByText('The gateway does not answer.')).toBeDefined();
    await user.click(screen.getByRole('button', { name: 'try again' }));
    await waitFor(() => expect(house.told.map((t) => t.path)).toEqual(['/api/jobs/41/run']));
    await user.click(screen.getByRole('tab', { name: 'Done' }));
    expect(await screen.findByText('Nothing here.')).toBeDefined();
  });

  it('that begin by themselves can be begun now, others not; a refusal is said', async () => {
    house.answer(listJobs, () => ({ items: [], next: null, dead: 0, kinds: KINDS, now: NOW }));
    house.answer(beginJob, () => refusal('kind', 'It is under way already.'));
    const { user } = house.open(<Jobs />);
    expect(await screen.findByText('No job has failed.')).toBeDefined();
    expect(screen.queryByText('Load a file')).toBeNull();
    await user.click(screen.getByRole('button', { name: 'begin now' }));
    expect((await screen.findByRole('alert')).textContent).toContain('It is under way already.');
    expect(house.told[0]?.body).toEqual({ kind: 'sweep' });
  });
});

describe('the outbox', () => {
  const MESSAGE = {
    ...{ id: 7, kind: 'renewal', way: 'mail', toName: 'Inês Teixeira', address: 'ines@example.org', language: 'en' },
    ...{ subject: 'AG-2004 renews by itself', body: 'Decide by then.', state: 'dead', createdAt: NOW, sentAt: null },
    ...{ receipt: null, problem: 'No gateway is set.', tries: 1, about: { subject: 'agreement', id: 4 } },
  };
  const TEMPLATE = {
    ...{ kind: 'renewal', language: 'en', says: 'told a month before an agreement renews by itself', version: 0 },
    ...{ places: ['name', 'number'], subject: '{number} renews', body: 'Hello {name}' },
  };
  beforeEach(() => {
    house.answer(outbox.listOutbox, () => ({ items: [MESSAGE], next: null, now: NOW }));
    house.answer(outbox.listTemplates, () => ({ items: [TEMPLATE] }));
  });

  it('shows what could not leave with its reason, and sends it again', async () => {
    house.answer(outbox.sendAgain, () => ({ done: true }));
    const { user } = house.open(<Outbox />);
    const message = await screen.findByRole('article', { name: 'Message' });
    expect(message.textContent).toContain('✕ Not sent: No gateway is set.');
    await user.click(screen.getByRole('button', { name: 'send again' }));
    await waitFor(() => expect(house.told.map((t) => t.path)).toEqual(['/api/outbox/7/send']));
  });

  it('has its words changed; one place that does not exist is said at the text', async () => {
    house.answer(outbox.changeTemplate, () =>
      refusal('body', '{when} is nothing this message knows; use {name} or {number}.'),
    );
    const { user } = house.open(<Outbox />);
    await user.click(await screen.findByRole('tab', { name: 'Words of messages' }));
    await user.click(await screen.findByRole('button', { name: 'change' }));
    expect(screen.getByText(/You may put in \{name\}, \{number\}\./)).toBeDefined();
    await user.clear(screen.getByLabelText('Text'));
    await user.type(screen.getByLabelText('Text'), 'Decide by {{when}');
    await user.click(screen.getByRole('button', { name: 'Save the words' }));
    expect(await screen.findByText(/\{when\} is nothing this message knows/)).toBeDefined();
    expect(house.told[0]?.body).toEqual({ subject: '{number} renews', body: 'Decide by {when}', version: 0 });
    expect(screen.getByLabelText<HTMLTextAreaElement>('Text').value).toBe('Decide by {when}');
  });
});
