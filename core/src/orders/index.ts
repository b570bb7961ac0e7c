// Orders: stages, acts and what may follow; the forms filled on site; what is missing before they are done.
export * from './act.ts';
export * from './call.ts';
export * from './clock-events.ts';
export * from './corrected.ts';
export * from './course.ts';
export * from './done-check.ts';
export * from './effort.ts';
export * from './exceptions.ts';
export * from './form.ts';
export { heldOf, leftOf } from './held.ts';
export * from './kept-plan.ts';
export * from './order.ts';
export * from './own-time.ts';
export * from './spread.ts';
