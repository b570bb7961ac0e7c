// Rows that are ticked to act on: which they are, and the boxes that tick one, all, or all between two.
import { useRef, useState } from 'react';

export type Ticks<K = number> = {
  readonly ticked: ReadonlySet<K>;
  /** Ticks all of these, or none of them where all are ticked. */
  readonly toggle: (ids: readonly K[]) => void;
  readonly clear: () => void;
};

export function useTicks<K = number>(): Ticks<K> {
  const [ticked, setTicked] = useState<ReadonlySet<K>>(new Set());
  const toggle = (ids: readonly K[]): void =>
    setTicked((old) =>
      ids.every((id) => old.has(id)) ? new Set([...old].filter((t) => !ids.includes(t))) : new Set([...old, ...ids]),
    );
  return { ticked, toggle, clear: () => setTicked(new Set()) };
}

/** With Shift, everything from the box pressed last to this one becomes as this one does. `inOrder`: the ids of each row. */
export function useTickRange<K>({ ticked, toggle }: Ticks<K>, inOrder: readonly (readonly K[])[]) {
  const last = useRef<number | null>(null);
  return (row: number, withShift: boolean): void => {
    const ids = inOrder[row] ?? [];
    const from = withShift && last.current !== null ? last.current : row;
    last.current = row;
    const on = !ids.every((id) => ticked.has(id));
    const between = inOrder.slice(Math.min(from, row), Math.max(from, row) + 1).flat();
    toggle(between.filter((x) => ticked.has(x) !== on));
  };
}

export function TickBox({
  name,
  checked,
  some = false,
  onTick,
}: {
  name: string;
  checked: boolean;
  /** Some of those it stands for are ticked. */
  some?: boolean;
  onTick: (withShift: boolean) => void;
}) {
  return (
    <input
      type="checkbox"
      className="box-tick"
      aria-label={`Tick ${name}`}
      ref={(box) => {
        if (box) box.indeterminate = some && !checked;
      }}
      checked={checked}
      onClick={(e) => e.stopPropagation()}
      onChange={(e) => onTick((e.nativeEvent as MouseEvent).shiftKey)}
    />
  );
}

export function TickCell({ of: { ticked, toggle }, ids, name }: { of: Ticks; ids: readonly number[]; name: string }) {
  return (
    <td>
      <TickBox name={name} checked={ids.every((id) => ticked.has(id))} onTick={() => toggle(ids)} />
    </td>
  );
}
