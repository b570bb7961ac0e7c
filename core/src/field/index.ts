// Field: what a phone does without a network, and how the server takes it.
export * from './order-now.ts';
export * from './phone-clock.ts';
export * from './queue.ts';
export * from './whose.ts';
export * from './merge.ts';
