// What is typed, what answers to it, and what Enter means meanwhile: it is never done with the answer to an earlier question.
import { useEffect, useRef, useState } from 'react';
import type { Hit } from '#api/finder.ts';
import { finderApi } from './endpoints.ts';

export type Act = 'open' | 'raise';

const ASKS_AFTER_MS = 150;

/**
 * `isShown`: whether somebody opens hits of its kind. `open` is called with what was chosen, or with nothing.
 * `ahead`: what was typed and entered before the finder stood.
 */
export function useFinding(
  isShown: (hit: Hit) => boolean,
  open: (hit: Hit | undefined, act: Act) => void,
  ahead: { readonly text: string; readonly act: Act | null },
) {
  const [typed, setTyped] = useState(ahead.text);
  const [q, setQ] = useState(ahead.text.trim());
  const [chosen, setChosen] = useState(0);
  /** Enter was pressed before the answer came: done with the first hit once it is there. */
  const [awaited, setAwaited] = useState<Act | null>(ahead.act);
  // What was typed while the field had not got the keys yet comes after it stood.
  const [taken, setTaken] = useState(ahead);
  if (taken.text !== ahead.text || taken.act !== ahead.act) {
    setTaken(ahead);
    setTyped(ahead.text);
    setAwaited(ahead.act);
  }
  const ask = (text: string): void => {
    setQ(text.trim());
    setChosen(0);
  };
  useEffect(() => {
    const timer = setTimeout(() => ask(typed), ASKS_AFTER_MS);
    return () => clearTimeout(timer);
  }, [typed]);
  const { currentData, isFetching, error } = finderApi.useFindQuery({ query: { q } }, { skip: q.length < 2 });
  const hits = currentData && q.length >= 2 ? currentData.hits.filter(isShown) : [];
  const isBehind = typed.trim() !== q || (q.length >= 2 && !currentData && !error);

  const first = useRef<(act: Act) => void>(() => undefined);
  useEffect(() => {
    first.current = (act) => {
      setAwaited(null);
      open(hits[0], act);
    };
  });
  useEffect(() => {
    if (awaited !== null && !isBehind) first.current(awaited);
  }, [awaited, isBehind]);

  return {
    typed,
    q,
    answer: currentData,
    isFetching,
    error,
    hits,
    chosen,
    type: (text: string): void => {
      setTyped(text);
      setAwaited(null);
    },
    choose: (index: number): void => setChosen(Math.max(0, Math.min(hits.length - 1, index))),
    enter: (act: Act): void => {
      if (!isBehind) return open(hits[chosen], act);
      ask(typed);
      setAwaited(act);
    },
  };
}
