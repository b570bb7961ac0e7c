// Time: local dates, instants, zones and durations, kept apart by type.
export * from './local-date.ts';
export * from './instant.ts';
export * from './zone.ts';
export * from './duration.ts';
export * from './say.ts';
export * from './typed-date.ts';
export * from './spans.ts';
