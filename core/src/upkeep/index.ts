// Upkeep: visits that fall due.
export * from './propose.ts';
export * from './show.ts';
