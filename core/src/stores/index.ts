// Stores: the parts list and how parts are used.
export * from './part.ts';
export * from './stock.ts';
export * from './cover.ts';
export * from './count.ts';
export * from './needs.ts';
export * from './purchase.ts';
export * from './replay.ts';
export * from './reorder.ts';
export * from './planned.ts';
export * from './list-file.ts';
export * from './parts-file.ts';
export * from './shelves-file.ts';
export * from './course.ts';
export * from './unit.ts';
export * from './going-back.ts';
