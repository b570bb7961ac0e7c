// Calendars: opening spans, working days and working time.
export * from './calendar.ts';
export * from './difference.ts';
export * from './working-days.ts';
export * from './working-time.ts';
export * from './year.ts';
