// @vitest-environment jsdom
// The frame: who may see which rooms, what floats by a key, and what stays when a page fails.
import { cleanup, render, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState, type ComponentType } from 'react';
import { Provider } from 'react-redux';
import { RouterProvider } from 'react-router';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { readCounts } from '#api/house.ts';
import { useMarkUnsaved } from '../parts/unsaved.tsx';
import { Dialog } from './dialog.tsx';
import type { FloatingProps, Room } from './room.ts';
import { routerOver } from './router.tsx';
import { store } from './store.ts';
import { type TestHouse, dialogClosed, testHouse } from './testing.tsx';

const NOW = Date.UTC(2026, 10, 24, 9, 20);
const page = (path: string, Page: ComponentType, load: () => Promise<ComponentType> = () => Promise.resolve(Page)) => ({
  path,
  load,
});
function Breaks(): never {
  throw new Error('the drawing has no paper');
}
function Note() {
  const [text, setText] = useState('');
  useMarkUnsaved(text !== '');
  return <input aria-label="Note" value={text} onChange={(e) => setText(e.target.value)} />;
}
let lampArrives = Promise.resolve();
const ROOMS: readonly Room[] = [
  {
    name: 'first',
    rail: { word: 'First', path: '/', key: 'f' },
    pages: [page('/', () => <h1>The first room</h1>)],
  },
  {
    name: 'ledger',
    rail: { word: 'Ledger', path: '/ledger', key: 'l', shown: { may: ['administrator'] } },
    pages: [page('/ledger', () => <h1>The ledger</h1>)],
  },
  { name: 'broken', rail: { word: 'Broken', path: '/broken', key: 'b' }, pages: [page('/broken', Breaks)] },
  {
    name: 'gone',
    rail: { word: 'Gone', path: '/gone', key: 'o' },
    pages: [
      page('/gone', Breaks, () =>
        Promise.reject(new TypeError('Failed to fetch dynamically imported module: /assets/gone.js')),
      ),
    ],
  },
  { name: 'note', rail: { word: 'Notes', path: '/note', key: 'n' }, pages: [page('/note', Note)] },
  {
    name: 'lamp',
    floats: {
      word: 'light',
      key: '.',
      load: () =>
        lampArrives.then(() => ({ onClose, typedAhead }: FloatingProps) => (
          <Dialog title="The lamp" onClose={onClose}>
            <p>{`${typedAhead.text} · ${typedAhead.enter}`}</p>
            <button onClick={onClose}>Out</button>
          </Dialog>
        )),
    },
  },
];

let house: TestHouse;
beforeEach(() => {
  window.history.replaceState(null, '', '/');
  vi.spyOn(console, 'error').mockImplementation(() => undefined);
  vi.stubGlobal(
    'EventSource',
    class {
      addEventListener = (): void => undefined;
      close = (): void => undefined;
    },
  );
});
afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

async function enter(role: 'coordinator' | 'administrator' = 'coordinator') {
  house = testHouse(NOW, role);
  house.answer(readCounts, () => ({ first: 6, ledger: 0 }));
  const user = userEvent.setup({ delay: null });
  render(
    <Provider store={store}>
      <RouterProvider router={routerOver(ROOMS)} />
    </Provider>,
  );
  await screen.findByRole('heading', { name: 'The first room' });
  return user;
}
const inRail = (): string[] => screen.getAllByRole('link').map((link) => link.textContent);

describe('the rail', () => {
  it('shows the rooms whoever is signed in may enter, with what waits there', async () => {
    await enter();
    await waitFor(() => expect(inRail()).toEqual(['First6', 'Broken', 'Gone', 'Notes']));
    cleanup();
    await enter('administrator');
    expect(inRail()).toContain('Ledger');
  });

  it('is walked by keys: g and a letter, never while somebody types', async () => {
    const user = await enter('administrator');
    await user.keyboard('gl');
    expect(await screen.findByRole('heading', { name: 'The ledger' })).toBeDefined();
    await user.keyboard('gn');
    await user.type(await screen.findByLabelText('Note'), 'gl');
    expect(screen.getByLabelText<HTMLInputElement>('Note').value).toBe('gl');
  });
});

describe('what floats', () => {
  it('is opened by its key and listed among the keys, and one closes with Esc', async () => {
    const user = await enter();
    await user.keyboard('.');
    expect(await screen.findByRole('dialog', { name: 'The lamp' })).toBeDefined();
    await user.keyboard('{Escape}');
    await dialogClosed();
    await user.keyboard('?');
    const keys = await screen.findByRole('dialog', { name: 'Keys' });
    expect([...keys.querySelectorAll('dt')].map((dt) => dt.textContent)).toEqual(
      expect.arrayContaining(['.', 'g f', 'g b', 'Esc']),
    );
  });
});

describe('what floats and has not arrived yet', () => {
  let arrive: () => void;
  let fail: () => void;
  beforeEach(() => {
    lampArrives = new Promise((resolve, reject) => {
      arrive = resolve;
      fail = () => reject(new TypeError('Failed to fetch'));
    });
  });
  afterEach(() => {
    lampArrives = Promise.resolve();
  });

  it('is handed what was typed meanwhile; no key of it means the page', async () => {
    const user = await enter('administrator');
    await user.keyboard('.glx{Backspace}1{Shift>}{Enter}{/Shift}');
    arrive();
    expect((await screen.findByRole('dialog', { name: 'The lamp' })).textContent).toContain('gl1 · Shift+Enter');
    expect(screen.getByRole('heading', { name: 'The first room', hidden: true })).toBeDefined();
  });

  it('is given up by Esc, or when it does not arrive; then the keys mean the page again', async () => {
    const user = await enter('administrator');
    await user.keyboard('.{Escape}gl');
    expect(await screen.findByRole('heading', { name: 'The ledger' })).toBeDefined();
    await user.keyboard('.');
    fail();
    await lampArrives.catch(() => undefined);
    await waitFor(async () => {
      await user.keyboard('gf');
      expect(screen.getByRole('heading', { name: 'The first room' })).toBeDefined();
    });
    lampArrives = Promise.resolve();
    await user.keyboard('.');
    expect(await screen.findByRole('dialog', { name: 'The lamp' })).toBeDefined();
  });
});

describe('what is typed and not saved', () => {
  it('keeps one from leaving by a key or the rail, until one says so', async () => {
    const user = await enter();
    await user.keyboard('gn');
    await user.type(await screen.findByLabelText('Note'), 'half a thought');
    await user.click(screen.getByRole('link', { name: /^First/ }));
    await user.click(await screen.findByRole('button', { name: 'Stay here' }));
    expect(screen.getByLabelText<HTMLInputElement>('Note').value).toBe('half a thought');
    await user.click(screen.getByRole('link', { name: /^First/ }));
    await user.click(await screen.findByRole('button', { name: 'Leave it' }));
    expect(await screen.findByRole('heading', { name: 'The first room' })).toBeDefined();
  });
});

describe('a page that fails', () => {
  it('says what it said and leaves the rail, from where one goes on', async () => {
    const user = await enter();
    await user.click(screen.getByRole('link', { name: 'Broken' }));
    const alert = await screen.findByRole('alert');
    expect(alert.textContent).toContain('This page cannot be shown');
    expect(alert.textContent).toContain('the drawing has no paper');
    await user.click(screen.getByRole('link', { name: /^First/ }));
    expect(await screen.findByRole('heading', { name: 'The first room' })).toBeDefined();
  });

  it('to arrive is told apart from one that breaks', async () => {
    const user = await enter();
    await user.click(screen.getByRole('link', { name: 'Gone' }));
    expect((await screen.findByRole('alert')).textContent).toContain('A part of this page did not arrive');
    expect(screen.getByRole('button', { name: 'Load it again' })).toBeDefined();
    expect(screen.getByRole('navigation', { name: 'Rooms' })).toBeDefined();
  });
});
