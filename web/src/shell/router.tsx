// The addresses of the rooms' pages; each room's code is loaded when it is entered.
import { createBrowserRouter } from 'react-router';
import { Failed } from './failed.tsx';
import { Frame } from './frame.tsx';
import { NotFound } from './not-found.tsx';
import type { Room } from './room.ts';

export const routerOver = (rooms: readonly Room[]) =>
  createBrowserRouter([
    {
      path: '/',
      element: <Frame rooms={rooms} />,
      HydrateFallback: () => null,
      ErrorBoundary: Failed,
      children: [
        {
          // What fails in a page leaves the rail beside it.
          ErrorBoundary: Failed,
          children: [
            ...rooms.flatMap(({ pages = [] }) =>
              pages.map(({ path, load }) => {
                const lazy = async () => ({ Component: await load() });
                return path === '/' ? { index: true as const, lazy } : { path, lazy };
              }),
            ),
            { path: '*', Component: NotFound },
          ],
        },
      ],
    },
  ]);
