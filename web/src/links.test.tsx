// No way leads nowhere: every path that a screen goes to is one of some room's pages.
import { matchPath } from 'react-router';
import { expect, it } from 'vitest';
import { ROOMS } from './rooms.tsx';

const SOURCES = import.meta.glob<string>(['./**/*.{ts,tsx}', '!./**/*.test.*', '!./field/**', '!./parts/**'], {
  query: '?raw',
  import: 'default',
  eager: true,
});
/** What a link, a button or a thing that was found goes to. */
const WAY = /(?:\bto=\{?|navigate\(|open: \([a-z]*\) => |act: \([a-z]*\) => |[?:] )[`'"](\/[a-z][^`'"]*)[`'"]/g;
const PAGES = ROOMS.flatMap((room) => (room.pages ?? []).map((page) => `/${page.path.replace(/^\//, '')}`));

/** A path as it would be: what is filled in stands for any one word. */
const asPath = (way: string): string =>
  way
    .replace(/\$\{search\}$/, '')
    .replaceAll(/\$\{[^}]*\}/g, '7')
    .replace(/[?#].*$/, '')
    .replace(/\/$/, '');

it('leads to a page', () => {
  const ways = Object.entries(SOURCES).flatMap(([file, text]) =>
    [...text.matchAll(WAY)].map((found) => ({ file, way: found[1] as string })),
  );
  // As many as there are today, about: fewer, and they are written in another way that this does not see.
  expect(ways.length).toBeGreaterThan(150);
  const lost = ways.filter(
    ({ way }) => !way.startsWith('/api/') && !PAGES.some((page) => matchPath(page, asPath(way)) !== null),
  );
  expect(lost).toEqual([]);
});
