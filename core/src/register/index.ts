// Register: customers, places and what they inherit, assets and their lives, meters, finding, imports.
export * from './customer.ts';
export * from './place.ts';
export * from './tree.ts';
export * from './life.ts';
export * from './meters.ts';
export * from './finding.ts';
export * from './twins.ts';
export * from './spread.ts';
export * from './geo.ts';
export * from './import-rows.ts';
export * from './import.ts';
export * from './import-tables.ts';
export * from './table-import.ts';
