// @vitest-environment jsdom
// What floats over a page, asked for before it is there: it comes once, and what is typed into it stays.
import { act, cleanup, renderHook } from '@testing-library/react';
import { afterEach, expect, it } from 'vitest';
import { useFloating, type Floating } from './floating.ts';
import type { Room } from './room.ts';

afterEach(cleanup);

/** A part that is loaded when the test says so; each loading gives a component of its own, as a module's may. */
function slowly() {
  const arrives: ((isThere: boolean) => void)[] = [];
  const floats = {
    ...{ word: 'find', key: '/' },
    load: () =>
      new Promise<() => null>((resolve, reject) =>
        arrives.push((isThere) => (isThere ? resolve(() => null) : reject(new Error('away')))),
      ),
  } as unknown as Floating;
  const rooms = [{ name: 'finder', floats }] as unknown as Room[];
  return { floats, arrives, ...renderHook(() => useFloating(rooms)) };
}

it('wanted while it is on its way it is loaded twice and stands once', async () => {
  const { floats, arrives, result } = slowly();
  act(() => result.current.float(floats));
  expect([arrives.length, result.current.Floats]).toEqual([2, null]);
  await act(async () => arrives[0]?.(true));
  const stands = result.current.Floats;
  expect(stands).not.toBeNull();
  // Another in its place would begin with nothing typed.
  await act(async () => arrives[1]?.(true));
  expect(result.current.Floats).toBe(stands);
});

it('that does not arrive is given up, and asked for again when it is wanted again', async () => {
  const { floats, arrives, result } = slowly();
  await act(async () => arrives[0]?.(false));
  act(() => result.current.float(floats));
  await act(async () => arrives[1]?.(false));
  expect(result.current.Floats).toBeNull();
  act(() => result.current.float(floats));
  await act(async () => arrives[2]?.(true));
  expect(result.current.Floats).not.toBeNull();
});
