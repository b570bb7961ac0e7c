// All tables, by room.
export * from './setup.ts';
export * from './register.ts';
export * from './finding.ts';
export * from './files.ts';
export * from './imports.ts';
export * from './agreements.ts';
export * from './orders.ts';
export * from './signals.ts';
export { instantOfText, instantText } from './columns.ts';
