// Labour: time entries, hours kinds, rate cards, and what time comes to.
export * from './hours-kind.ts';
export * from './entry.ts';
export * from './divide.ts';
export * from './sheet.ts';
export * from './rate-card.ts';
export * from './amounts.ts';
export * from './sheet-life.ts';
export * from './indication.ts';
