// Orders: stages, events and what may follow; the forms filled on site.
export * from './form.ts';
export * from './order.ts';
export * from './spread.ts';
