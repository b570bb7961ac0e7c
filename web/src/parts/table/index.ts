export type { Column, Value } from './column.ts';
export { Table } from './table.tsx';
export { TickBox, TickCell, useTicks, type Ticks } from './ticks.tsx';
export { ColumnsMenu } from './columns-menu.tsx';
export { ariaSort, Edge, HeadWords, SortButton } from './head-cell.tsx';
export { useTableLook, type Looking } from './look.ts';
export { ordered } from './ordered.ts';
export { readSort, sortAsked, sortedNext, sortText, type Sort } from './sort.ts';
