// Machines ticked in a list that is not all here: with Shift, or all at once, the server says which they are.
import { useRef, useState } from 'react';
import { ASSET_SORTS } from '#api/register.ts';
import type { Problem } from '#api/shapes.ts';
import { sortAsked, sortText, useTicks, type Sort } from '../parts/table/index.ts';
import { plural } from '../parts/words.ts';
import { assetsApi } from './endpoints.ts';
import type { AssetListFilter } from './table.tsx';

/** As many as are changed at once. */
export const TICKED_AT_MOST = 2000;
const AT_ONCE = 200;

export type AssetTicks = {
  readonly ticked: ReadonlySet<number>;
  /** The whole list, as it is filtered, was ticked and nothing was unticked since. */
  readonly isWhole: boolean;
  /** What keeps a tick from being set, in words. */
  readonly refused: string | null;
  /** Ticks or unticks one; with Shift everything from the one before to it becomes as it does. */
  readonly tick: (id: number, row: number, withShift: boolean) => void;
  /** Ticks a whole list of so many, or nothing more. */
  readonly tickAll: (count: number, on: boolean) => void;
  readonly clear: () => void;
};

export function useAssetTicks(filter: AssetListFilter, sort: Sort | null): AssetTicks {
  const { ticked, toggle, clear } = useTicks();
  const [refused, setRefused] = useState<string | null>(null);
  const [read] = assetsApi.useLazyListAssetsQuery();
  const list = new URLSearchParams(filter).toString();
  // In another list or order the row pressed last is another machine.
  const rows = `${list} ${sortText(sort)}`;
  const last = useRef<{ readonly row: number; readonly rows: string } | null>(null);
  const [whole, setWhole] = useState<string | null>(null);

  async function idsBetween(from: number, to: number): Promise<number[]> {
    const ids: number[] = [];
    for (let offset = from; offset <= to; offset += AT_ONCE) {
      const limit = String(Math.min(AT_ONCE, to + 1 - offset));
      const query = { ...filter, ...sortAsked(sort, ASSET_SORTS), limit, offset: String(offset) };
      ids.push(...(await read({ query }).unwrap()).items.map((row) => row.id));
    }
    return ids;
  }
  const become = (on: boolean, from: number, to: number, isWhole = false): void => {
    setRefused(null);
    if (to + 1 - from > TICKED_AT_MOST) {
      setRefused(`These are ${plural(to + 1 - from, 'asset')}; at most ${TICKED_AT_MOST} are ticked at once.`);
      return;
    }
    idsBetween(from, to).then(
      (ids) => {
        toggle(ids.filter((id) => ticked.has(id) !== on));
        setWhole(isWhole ? list : null);
      },
      (problem: unknown) => setRefused((problem as Problem).detail),
    );
  };
  const clearAll = (): void => {
    setWhole(null);
    setRefused(null);
    clear();
  };
  return {
    ticked,
    isWhole: whole === list,
    refused,
    tick(id, row, withShift) {
      const from = withShift && last.current?.rows === rows ? last.current.row : row;
      last.current = { row, rows };
      setRefused(null);
      if (from === row) {
        setWhole(null);
        toggle([id]);
      } else become(!ticked.has(id), Math.min(from, row), Math.max(from, row));
    },
    tickAll(count, on) {
      if (on) become(true, 0, count - 1, true);
      else clearAll();
    },
    clear: clearAll,
  };
}
