// Service levels and the clocks they set running.
export * from './service-level.ts';
export * from './clocks.ts';
export * from './derivation.ts';
export * from './margin.ts';
export * from './pledge.ts';
export * from './warnings.ts';
export * from './say-level.ts';
