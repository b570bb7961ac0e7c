// The columns of a table: which are shown, in which order, which stay at the left. By pointer and by keyboard.
import { Button, Dialog, DialogTrigger, Popover } from 'react-aria-components';
import { ArrowDown, ArrowUp, Pin, PinOff } from 'lucide-react';
import type { Column } from './column.ts';
import { AS_AT_FIRST, type Looking } from './look.ts';

const without = (list: readonly string[], id: string): string[] => list.filter((x) => x !== id);
const toggled = (list: readonly string[], id: string): string[] =>
  list.includes(id) ? without(list, id) : [...list, id];

/** `inOrder`: ids of all columns as they stand now. */
export function moved(inOrder: readonly string[], id: string, by: -1 | 1): string[] {
  const from = inOrder.indexOf(id);
  const to = from + by;
  if (from < 0 || to < 0 || to >= inOrder.length) return [...inOrder];
  const next = [...inOrder];
  [next[from], next[to]] = [next[to] as string, next[from] as string];
  return next;
}

export function ColumnsMenu<R>({
  columns,
  inOrder,
  hidden,
  looking: { look, change },
}: {
  columns: readonly Column<R>[];
  inOrder: readonly string[];
  hidden: readonly string[];
  looking: Looking;
}) {
  const named = inOrder.flatMap((id) => columns.filter((c) => c.id === id && c.head !== ''));
  const shown = named.filter((c) => !hidden.includes(c.id));
  const left = named.length - shown.length;
  return (
    <DialogTrigger>
      <Button className="link-ink">Columns{left > 0 ? ` (${left} left out)` : ''}</Button>
      <Popover
        placement="bottom end"
        className="floating z-30 max-h-[70vh] min-w-72 overflow-y-auto bg-base-100 px-3 py-2"
      >
        <Dialog aria-label="Columns shown" className="outline-none">
          <ul>
            {named.map(({ id, head }, i) => (
              <li key={id} className="flex items-center gap-2 py-0.5">
                <label className="flex flex-1 items-center gap-2">
                  <input
                    type="checkbox"
                    className="box-tick"
                    checked={!hidden.includes(id)}
                    disabled={shown.length === 1 && shown[0]?.id === id}
                    onChange={() => change({ hidden: toggled(hidden, id) })}
                  />
                  {head}
                </label>
                {/* Never disabled, which would take the focus away from whoever moves a column to the end. */}
                <button
                  className="icon-act"
                  aria-label={`${head} further left`}
                  aria-disabled={i === 0}
                  onClick={() => change({ order: moved(inOrder, id, -1) })}
                >
                  <ArrowUp size={14} aria-hidden="true" />
                </button>
                <button
                  className="icon-act"
                  aria-label={`${head} further right`}
                  aria-disabled={i === named.length - 1}
                  onClick={() => change({ order: moved(inOrder, id, 1) })}
                >
                  <ArrowDown size={14} aria-hidden="true" />
                </button>
                <button
                  className="icon-act"
                  aria-label={`Keep ${head} at the left`}
                  aria-pressed={look.pinned.includes(id)}
                  onClick={() => change({ pinned: toggled(look.pinned, id) })}
                >
                  {look.pinned.includes(id) ? (
                    <PinOff size={14} aria-hidden="true" />
                  ) : (
                    <Pin size={14} aria-hidden="true" />
                  )}
                </button>
              </li>
            ))}
          </ul>
          <button className="link-ink pt-1" onClick={() => change(AS_AT_FIRST)}>
            As at first
          </button>
        </Dialog>
      </Popover>
    </DialogTrigger>
  );
}
