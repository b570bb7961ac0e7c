// How a person likes a table, kept with them on the server: read once, changed at once on screen, written a little later.
import { useEffect, useMemo, useRef, useState } from 'react';
import type { TableLook } from '#api/house.ts';
import { server } from '../../shell/store.ts';

export const AS_AT_FIRST: TableLook = { hidden: [], order: [], pinned: [], widths: {}, sort: null };
/** While somebody drags a width, no write for each pixel. */
const WRITE_AFTER_MS = 600;

export type Looking = { readonly look: TableLook; readonly change: (part: Partial<TableLook>) => void };

export function useTableLook(name: string, first: Partial<TableLook> = {}): Looking {
  const { data: kept } = server.useReadTableLooksQuery();
  const [keep] = server.useKeepTableLookMutation();
  const [own, setOwn] = useState<TableLook | null>(null);
  const later = useRef<ReturnType<typeof setTimeout> | null>(null);
  const start = useRef(first);
  const look = useMemo(() => own ?? kept?.[name] ?? { ...AS_AT_FIRST, ...start.current }, [own, kept, name]);
  const pending = useRef<TableLook | null>(null);
  const write = useRef(() => undefined as void);
  useEffect(() => {
    write.current = () => {
      if (pending.current) void keep({ params: { name }, body: pending.current });
      pending.current = null;
    };
  });
  // Left before it was written: written now.
  useEffect(
    () => () => {
      if (later.current) clearTimeout(later.current);
      write.current();
    },
    [],
  );
  return {
    look,
    change(part) {
      const next = { ...look, ...part };
      setOwn(next);
      pending.current = next;
      if (later.current) clearTimeout(later.current);
      later.current = setTimeout(() => write.current(), WRITE_AFTER_MS);
    },
  };
}
