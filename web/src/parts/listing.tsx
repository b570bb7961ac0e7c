// A table with its columns chosen and kept, and saved as CSV exactly as it is shown.
import { useEffect, useLayoutEffect, useRef, useState, type ReactNode } from 'react';
import { csvText } from '#core/csv.ts';

const keyOf = (name: string): string => `stavok.columns.${name}`;

function keptColumns(name: string): readonly string[] {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(keyOf(name)) ?? '[]');
    return Array.isArray(kept) ? kept.filter((k) => typeof k === 'string') : [];
  } catch {
    return [];
  }
}

/** The words of the table's column heads; columns without a word (ticks, acts) are empty. */
const headsOf = (box: HTMLElement): string[] =>
  [...box.querySelectorAll('thead tr:last-child > *')].map((cell) => cell.textContent.trim());

/** What the table shows, row by row, without columns that have no head or are left out. */
export function shownRows(box: HTMLElement): string[][] {
  const heads = headsOf(box);
  const isShown = (cell: Element, i: number): boolean => heads[i] !== '' && getComputedStyle(cell).display !== 'none';
  return [...box.querySelectorAll('tr')].map((row) =>
    [...row.children]
      .filter(isShown)
      .map((cell) => (cell as HTMLElement).innerText.trim().replace(/\s*\n+\s*/g, ' · ')),
  );
}

function save(fileName: string, text: string): void {
  const link = document.createElement('a');
  link.href = URL.createObjectURL(new Blob([text], { type: 'text/csv;charset=utf-8' }));
  link.download = fileName;
  link.click();
  URL.revokeObjectURL(link.href);
}

function ColumnChoice({
  heads,
  without,
  toggle,
}: {
  heads: readonly string[];
  without: readonly string[];
  toggle: (head: string) => void;
}) {
  const shown = heads.filter((h) => !without.includes(h));
  return (
    <fieldset className="floating absolute right-0 z-20 mt-1 min-w-44 bg-base-100 px-3 py-2">
      <legend className="sr-only">Columns shown</legend>
      {heads.map((head) => (
        <label key={head} className="flex items-center gap-2 py-0.5">
          <input
            type="checkbox"
            className="box-tick"
            checked={!without.includes(head)}
            disabled={shown.length === 1 && shown[0] === head}
            onChange={() => toggle(head)}
          />
          {head}
        </label>
      ))}
    </fieldset>
  );
}

/** Wraps one table; `name` keeps the choice of columns on this device and names the file. */
export function Listing({ name, title, children }: { name: string; title?: ReactNode; children: ReactNode }) {
  const box = useRef<HTMLDivElement>(null);
  const choice = useRef<HTMLDivElement>(null);
  const [without, setWithout] = useState(() => keptColumns(name));
  const [open, setOpen] = useState<readonly string[] | null>(null);
  useLayoutEffect(() => {
    const table = box.current;
    if (!table) return;
    const hidden = headsOf(table).flatMap((head, i) => (without.includes(head) ? [i + 1] : []));
    table.dataset.without = hidden.join(' ');
  });
  useEffect(() => {
    if (!open) return;
    const leave = (e: Event): void => {
      if (!choice.current?.contains(e.target as Node)) setOpen(null);
    };
    const escape = (e: KeyboardEvent): void => {
      if (e.key === 'Escape') setOpen(null);
    };
    document.addEventListener('pointerdown', leave);
    document.addEventListener('keydown', escape);
    return () => {
      document.removeEventListener('pointerdown', leave);
      document.removeEventListener('keydown', escape);
    };
  }, [open]);
  const toggle = (head: string): void => {
    const next = without.includes(head) ? without.filter((w) => w !== head) : [...without, head];
    localStorage.setItem(keyOf(name), JSON.stringify(next));
    setWithout(next);
  };
  return (
    <div>
      <div className="flex items-end justify-between gap-4 pb-1">
        <div>{title}</div>
        <div className="relative flex gap-3 text-[0.87rem]" ref={choice}>
          <button
            className="link-ink"
            aria-expanded={open !== null}
            onClick={() => setOpen(open ? null : headsOf(box.current as HTMLElement).filter((h) => h !== ''))}
          >
            Columns{without.length > 0 ? ` (${without.length} left out)` : ''}
          </button>
          <button
            className="link-ink"
            onClick={() => save(`${name}.csv`, csvText(shownRows(box.current as HTMLElement)))}
          >
            CSV
          </button>
          {open && <ColumnChoice heads={open} without={without} toggle={toggle} />}
        </div>
      </div>
      <div ref={box} className="listing">
        {children}
      </div>
    </div>
  );
}
