// Recurrence: RFC 5545 rules over dates.
export * from './rule.ts';
export * from './expand.ts';
export * from './editing.ts';
export * from './words.ts';
