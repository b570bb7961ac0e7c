export type { Column, Value } from './column.ts';
export { Table, type Sort } from './table.tsx';
export { TickBox, TickCell, useTicks, type Ticks } from './ticks.tsx';
export { ColumnsMenu } from './columns-menu.tsx';
export { Edge } from './head-cell.tsx';
export { useTableLook, type Looking } from './look.ts';
export { ordered } from './ordered.ts';
