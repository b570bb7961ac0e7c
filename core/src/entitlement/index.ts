// Entitlement: covers, allowances, the decision and its reasons.
export * from './cover.ts';
export * from './allowance.ts';
export * from './pace.ts';
export * from './decide.ts';
export * from './term.ts';
