// Orders: stages, events and what may follow.
export * from './order.ts';
