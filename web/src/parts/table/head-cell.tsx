// A column's head: sorts when pressed, and is made wider or narrower at its right edge.
import type { Header } from '@tanstack/react-table';
import { ArrowDown, ArrowUp } from 'lucide-react';
import type { CSSProperties, KeyboardEvent, MouseEvent, PointerEvent, ReactNode } from 'react';
import type { Value } from './column.ts';

const STEP = 16;
const NARROWEST = 32;

type Sized = (width: number) => void;

/** The right edge of a head, by which its column is sized; within an element that carries `data-column`. */
export function Edge({ name, width, onSize }: { name: string; width: number | undefined; onSize: Sized }) {
  const cellOf = (target: EventTarget & Element): number =>
    target.closest('[data-column]')?.getBoundingClientRect().width ?? 0;
  const drag = (down: PointerEvent<HTMLSpanElement>): void => {
    down.preventDefault();
    const [from, begun] = [down.clientX, cellOf(down.currentTarget)];
    const move = (e: globalThis.PointerEvent): void =>
      onSize(Math.max(NARROWEST, Math.round(begun + e.clientX - from)));
    const end = (): void => window.removeEventListener('pointermove', move);
    window.addEventListener('pointermove', move);
    window.addEventListener('pointerup', end, { once: true });
  };
  const press = (e: KeyboardEvent<HTMLSpanElement>): void => {
    const by = e.key === 'ArrowRight' ? STEP : e.key === 'ArrowLeft' ? -STEP : 0;
    if (by === 0) return;
    e.preventDefault();
    onSize(Math.max(NARROWEST, Math.round((width ?? cellOf(e.currentTarget)) + by)));
  };
  return (
    <span
      role="separator"
      aria-orientation="vertical"
      aria-label={`Width of ${name}`}
      aria-valuenow={width ?? 0}
      tabIndex={0}
      className="column-edge"
      onPointerDown={drag}
      onKeyDown={press}
    />
  );
}

/** What a head says: its words, or a drawing that carries them for those who do not see it. */
export function HeadWords({ head, drawn }: { head: string; drawn?: ReactNode }) {
  if (!drawn) return head;
  return (
    <>
      <span className="sr-only">{head}</span>
      {drawn}
    </>
  );
}

/** The words of a column's head, pressed to sort by it. */
export function SortButton({
  sorted,
  onPress,
  children,
}: {
  sorted: 'up' | 'down' | null;
  onPress: (event: MouseEvent) => void;
  children: ReactNode;
}) {
  return (
    <button
      type="button"
      className="inline-flex max-w-full items-center gap-1 text-left font-semibold hover:underline"
      onClick={onPress}
    >
      {children}
      {sorted === 'up' && <ArrowUp size={12} aria-hidden="true" />}
      {sorted === 'down' && <ArrowDown size={12} aria-hidden="true" />}
    </button>
  );
}

/** How assistive technology is told of an order. */
export const ariaSort = (sorted: 'up' | 'down' | null) =>
  sorted === 'up' ? 'ascending' : sorted === 'down' ? 'descending' : undefined;

export function HeadCell<R>({
  header,
  width,
  onSize,
  style,
}: {
  header: Header<R, Value>;
  width: number | undefined;
  onSize: Sized;
  style: CSSProperties;
}) {
  const { column } = header;
  const { head, drawnHead, isNumber } = column.columnDef.meta?.column ?? { head: '' };
  const way = column.getIsSorted();
  const sorted = way === 'asc' ? 'up' : way === 'desc' ? 'down' : null;
  const words = <HeadWords head={head} drawn={drawnHead} />;
  return (
    <th
      scope="col"
      className={`${isNumber ? 'num' : ''} ${drawnHead ? 'px-0!' : ''}`}
      style={style}
      aria-sort={ariaSort(sorted)}
      data-column={column.id}
    >
      {column.getCanSort() ? (
        <SortButton sorted={sorted} onPress={(event) => column.getToggleSortingHandler()?.(event)}>
          {words}
        </SortButton>
      ) : (
        words
      )}
      {head !== '' && <Edge name={head} width={width} onSize={onSize} />}
    </th>
  );
}
