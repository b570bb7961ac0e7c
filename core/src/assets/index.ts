// Assets: their lives, serials, and twins.
export * from './life.ts';
export * from './serial.ts';
export * from './twins.ts';
