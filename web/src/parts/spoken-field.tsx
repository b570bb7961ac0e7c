// Something typed in plain words and read at once; what was read is said back, what was not is said where it was typed.
import { useState, type ReactNode } from 'react';
import type { Decided } from '#core/refusal.ts';
import { TextField } from './fields.tsx';

export function SpokenField<T>({
  label,
  said,
  read,
  onRead,
  onUnread,
  hint,
  error,
  examples = [],
  className,
}: {
  label: string;
  /** What stands there now, in words. */
  said: string;
  read: (text: string) => Decided<T>;
  onRead: (value: T) => void;
  /** What cannot be read is kept as it was typed, so that it is refused and not taken for what stood there before. */
  onUnread: (text: string) => void;
  hint?: ReactNode;
  error?: string | undefined;
  examples?: readonly string[];
  className?: string;
}) {
  const [typed, setTyped] = useState<string | null>(null);
  const unread = typed === null ? null : read(typed);
  const take = (text: string): void => {
    setTyped(text);
    const found = read(text);
    if (found.ok) onRead(found.value);
    else onUnread(text);
  };
  const wrong = unread && !unread.ok ? unread.refusals.map((r) => r.message).join(' ') : error;
  return (
    <div className={className}>
      <TextField
        label={label}
        value={typed ?? said}
        onChange={take}
        onBlur={() => unread?.ok && setTyped(null)}
        hint={hint}
        error={wrong}
        autoComplete="off"
      />
      {examples.length > 0 && (
        <p className="quiet pt-1">
          For example{' '}
          {examples.map((text, i) => (
            <span key={text}>
              {i > 0 && ' · '}
              <button type="button" className="link-ink" onClick={() => take(text)}>
                {text}
              </button>
            </span>
          ))}
        </p>
      )}
    </div>
  );
}
