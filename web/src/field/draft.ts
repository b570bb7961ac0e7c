// What was typed and not kept yet: it is there again after a call, a dead battery or a look at something else.
import { useEffect, useRef, useState } from 'react';
import { usePhone } from './held.ts';

/** Typed values under a name; null until it was looked whether something was typed before. `clear` forgets them. */
export function useDraft<T>(key: string, first: T): readonly [T | null, (value: T) => void, () => void] {
  const phone = usePhone();
  const [value, setValue] = useState<T | null>(null);
  const begin = useRef(first);
  useEffect(() => {
    let isHere = true;
    void phone.draft(key).then(
      (kept) => isHere && setValue((kept as T | undefined) ?? begin.current),
      () => isHere && setValue(begin.current),
    );
    return () => {
      isHere = false;
    };
  }, [phone, key]);
  const change = (next: T): void => {
    setValue(next);
    void phone.keepDraft(key, next);
  };
  return [value, change, () => void phone.keepDraft(key, null)];
}
