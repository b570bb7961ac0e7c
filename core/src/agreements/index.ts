// Agreements: what must hold before one is in force, its versions, its price and its renewal.
export * from './numbering.ts';
export * from './overlap.ts';
export * from './import.ts';
export * from './readiness.ts';
export * from './price.ts';
export * from './versions.ts';
export * from './renewal.ts';
export * from './type.ts';
