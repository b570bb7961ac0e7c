// Settle: what work comes to, who bears it, its tax, and what is paid on site.
export * from './comes-to.ts';
export * from './payment.ts';
export * from './tax.ts';
