// Settle: what work comes to, who bears it, its tax, what is billed and what is paid.
export * from './approve.ts';
export * from './bank.ts';
export * from './claim.ts';
export * from './comes-to.ts';
export * from './coming.ts';
export * from './corrected.ts';
export * from './document.ts';
export * from './fees.ts';
export * from './journal.ts';
export * from './margin.ts';
export * from './odd.ts';
export * from './open-items.ts';
export * from './payment.ts';
export * from './promise-credit.ts';
export * from './statement.ts';
export * from './tax.ts';
