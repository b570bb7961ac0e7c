// Rows that are ticked to act on: which they are, and the cell that ticks one row or all those of a fold.
import { useState } from 'react';

export type Ticks = {
  readonly ticked: ReadonlySet<number>;
  /** Ticks all of these, or none of them where all are ticked. */
  readonly toggle: (ids: readonly number[]) => void;
  readonly clear: () => void;
};

export function useTicks(): Ticks {
  const [ticked, setTicked] = useState<ReadonlySet<number>>(new Set());
  const toggle = (ids: readonly number[]): void =>
    setTicked((old) =>
      ids.every((id) => old.has(id)) ? new Set([...old].filter((t) => !ids.includes(t))) : new Set([...old, ...ids]),
    );
  return { ticked, toggle, clear: () => setTicked(new Set()) };
}

export function TickCell({ of: { ticked, toggle }, ids, name }: { of: Ticks; ids: readonly number[]; name: string }) {
  return (
    <td>
      <input
        type="checkbox"
        className="box-tick"
        aria-label={`Tick ${name}`}
        checked={ids.every((id) => ticked.has(id))}
        onChange={() => toggle(ids)}
      />
    </td>
  );
}
