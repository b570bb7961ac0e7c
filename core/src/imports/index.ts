// Imports: what the rows of a file create or change, and what is wrong with those that cannot load.
export * from './columns.ts';
export * from './rows.ts';
export * from './plan.ts';
export * from './register.ts';
export * from './tables.ts';
export * from './rota.ts';
