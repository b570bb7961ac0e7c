// All tables, for whoever needs the whole schema: migrations, the demo world, tests.
export * from './platform/tables.ts';
export * from './calendars/tables.ts';
export * from './service-levels/tables.ts';
export * from './depots/tables.ts';
export * from './catalogue/tables.ts';
export * from './customers/tables.ts';
export * from './places/tables.ts';
export * from './assets/tables.ts';
export * from './meters/tables.ts';
export * from './imports/tables.ts';
export * from './agreements/tables.ts';
export * from './entitlement/tables.ts';
export * from './upkeep/tables.ts';
export * from './orders/tables.ts';
export * from './labour/tables.ts';
export * from './signals/tables.ts';
export * from './outbox/tables.ts';
export { instantOfText, instantText } from './platform/columns.ts';
