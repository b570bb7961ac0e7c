// Signals: readings from machines and the alerts they set off.
export * from './senml.ts';
export * from './alert.ts';
export * from './units.ts';
