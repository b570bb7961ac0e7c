export type { Column, Value } from './column.ts';
export { Table, type Sort } from './table.tsx';
export { TickBox, TickCell, useTicks, type Ticks } from './ticks.tsx';
