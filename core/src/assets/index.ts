// Assets: their lives, the facts these are told by, serials, warranties, and twins.
export * from './bulk.ts';
export * from './facts.ts';
export * from './label.ts';
export * from './life.ts';
export * from './serial.ts';
export * from './twins.ts';
export * from './warranty.ts';
