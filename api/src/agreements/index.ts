// Agreements on the wire.
export * from './administration.ts';
export * from './agreements.ts';
export * from './amendments.ts';
export * from './coverage.ts';
export * from './document.ts';
export * from './price.ts';
export * from './renewals.ts';
export * from './rights.ts';
export * from './terms.ts';
export * from './types.ts';
