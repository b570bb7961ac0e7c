// Entitlement: covers, the decision and its reasons.
export * from './decide.ts';
