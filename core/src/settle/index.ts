// Settle: what work comes to, who bears it, and its tax.
export * from './comes-to.ts';
export * from './tax.ts';
