// Signals: readings from machines and the alerts they set off.
export * from './figures.ts';
export * from './logger-file.ts';
export * from './senml.ts';
export * from './senml-cbor.ts';
export * from './alert.ts';
export * from './combination.ts';
export * from './condition.ts';
export * from './delay.ts';
export * from './out-of-service.ts';
export * from './telling.ts';
export * from './units.ts';
export * from './watch-times.ts';
export * from './watching.ts';
