// A house for tests of screens: the real store and forms over a server that answers by contract and remembers what it was sent.
import { render, screen, waitFor, type RenderResult } from '@testing-library/react';
import userEvent, { type UserEvent } from '@testing-library/user-event';
import type { ReactNode } from 'react';
import { Provider } from 'react-redux';
import { createMemoryRouter, RouterProvider } from 'react-router';
import * as v from 'valibot';
import { expect, vi } from 'vitest';
import type { AnyContract } from '#api/contract.ts';
import type { Problem } from '#api/shapes.ts';
import type { Role } from '#core/people.ts';
import { ReaderProvider } from './reader.tsx';
import { server, store } from './store.ts';

/** What the server says to a call; a problem is a refusal with its status. */
export type Saying = (sent: {
  readonly body: unknown;
  readonly query: URLSearchParams;
  readonly path: string;
}) => unknown;
export type Told = { readonly method: string; readonly path: string; readonly body: unknown };

export class Refusal {
  constructor(readonly problem: Problem) {}
}

export const refusal = (field: string | null, message: string, more: Partial<Problem> = {}): Refusal =>
  new Refusal({
    type: 'urn:stavok:problem:x',
    title: 'x',
    status: 422,
    code: 'x',
    detail: message,
    errors: field === null ? [] : [{ field, code: 'x', message }],
    ...more,
  });

const shaped = (path: string): RegExp => new RegExp(`^${path.replace(/:\w+/g, '[^/]+').replaceAll('.', '\\.')}$`);

export type TestHouse = {
  /** Writes in the order in which they were sent. */
  readonly told: Told[];
  /** Answers a contract from now on. */
  answer(contract: AnyContract, saying: Saying): void;
  /** `search`: what the address asks for, as “?place=3”. */
  open(screen: ReactNode, search?: string): { readonly user: UserEvent; readonly page: RenderResult };
};

const SIGNED_IN = { id: 7, name: 'Inês Teixeira', email: 'ines@example.org', zone: 'Europe/Lisbon' };

/** Every write must be what its contract reads; one that is not ends the test. Reads nobody answers stay without data. */
export function testHouse(now: number, role: Role = 'coordinator'): TestHouse {
  const told: Told[] = [];
  const answers: { contract: AnyContract; saying: Saying }[] = [];
  const person = { ...SIGNED_IN, role };
  const respond = (data: unknown, status = 200): Response =>
    new Response(JSON.stringify(data), { status, headers: { 'content-type': 'application/json' } });
  vi.stubGlobal('fetch', (address: string, init: RequestInit): Promise<Response> => {
    const url = new URL(address, 'http://127.0.0.1');
    const method = init.method ?? 'GET';
    if (url.pathname === '/api/session' && method === 'GET')
      return Promise.resolve(respond({ person, now, fixedNow: true, zones: [], csrf: 'x' }));
    if (url.pathname === '/api/me/tables') return Promise.resolve(respond({}));
    const found = answers.findLast((a) => a.contract.method === method && shaped(a.contract.path).test(url.pathname));
    if (!found) return new Promise(() => undefined);
    const body: unknown = typeof init.body === 'string' ? JSON.parse(init.body) : init.body;
    if (method !== 'GET') {
      if (found.contract.body) {
        const read = v.safeParse(found.contract.body, body);
        if (!read.success)
          throw new Error(
            `${method} ${url.pathname} was sent what it does not read: ${JSON.stringify(v.flatten(read.issues))}`,
          );
      }
      told.push({ method, path: url.pathname, body });
    }
    const said = found.saying({ body, query: url.searchParams, path: url.pathname });
    return Promise.resolve(said instanceof Refusal ? respond(said.problem, said.problem.status) : respond(said));
  });
  store.dispatch(server.util.resetApiState());
  return {
    told,
    answer: (contract, saying) => void answers.push({ contract, saying }),
    open(screen, search = '') {
      const shown = (
        <Provider store={store}>
          <ReaderProvider value={person}>{screen}</ReaderProvider>
        </Provider>
      );
      const routes = [
        { path: '/', element: shown },
        { path: '*', element: <p>elsewhere</p> },
      ];
      return {
        user: userEvent.setup({ delay: null }),
        page: render(<RouterProvider router={createMemoryRouter(routes, { initialEntries: [`/${search}`] })} />),
      };
    },
  };
}

/** No dialog is open any more, and what lies under it is heard again, which is a moment later. */
export const dialogClosed = (): Promise<void> =>
  waitFor(() => {
    expect(screen.queryByRole('dialog')).toBeNull();
    expect([...document.body.children].filter((c) => c.getAttribute('aria-hidden') === 'true')).toEqual([]);
  });
