// A file on its way through the server.
import { useRef, useState } from 'react';
import { useSearchParams } from 'react-router';
import type { ImportPage as Page } from '#api/imports.ts';
import { checkMapping, type Encoding, type ImportKind, type ImportSettings } from '#core/imports/index.ts';
import { useSubmit } from '../parts/fields.tsx';
import { importsApi } from './endpoints.ts';

/** A file on its way: handed in, mapped, begun to load. Choices made quickly are asked one at a time; the newest answer is shown. */
export function useImporting(kind: ImportKind) {
  const [params, setParams] = useSearchParams();
  const [page, setPage] = useState<Page | null>(null);
  const [begin, { isLoading: isReading }] = importsApi.useBeginImportMutation();
  const [set, { isLoading: isLooking }] = importsApi.useSetImportMutation();
  const [start, { isLoading: isStarting }] = importsApi.useStartImportMutation();
  const { errors, submit, clear } = useSubmit(['dateFormat']);
  const shown = Number(params.get('import')) || null;
  const show = (id: number | null): void => setParams(id === null ? {} : { import: String(id) }, { replace: true });
  const hand = async (chosen: File | undefined, as: Encoding): Promise<void> => {
    if (!chosen) return;
    setPage(null);
    show(null);
    clear();
    setPage(await submit(begin({ query: { kind, name: chosen.name, encoding: as }, body: chosen })));
  };
  // Choices made quickly one after the other: one request at a time, and only the newest answer is shown.
  const turn = useRef(0);
  const underWay = useRef<Promise<unknown>>(Promise.resolve());
  const change = async (settings: ImportSettings): Promise<void> => {
    if (!page) return;
    setPage({ ...page, settings: { ...settings, mapping: { ...settings.mapping } } });
    clear();
    turn.current += 1;
    const own = turn.current;
    if (checkMapping(page.kind, settings, page.head.length).length > 0) return;
    const body = { ...settings, mapping: { ...settings.mapping } };
    await underWay.current;
    if (own !== turn.current) return;
    const sent = submit(set({ params: { id: String(page.id) }, body }));
    underWay.current = sent;
    const found = await sent;
    if (found && own === turn.current) setPage(found);
  };
  const load = async (): Promise<void> => {
    if (page && (await submit(start({ params: { id: String(page.id) } })))) {
      show(page.id);
      setPage(null);
    }
  };
  return { page, setPage, shown, show, errors, hand, change, load, isReading, isLooking, isStarting };
}
