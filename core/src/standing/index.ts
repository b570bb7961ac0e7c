// Standing: whether promises were kept, and how dependable machines were, over a period.
export * from './attainment.ts';
export * from './availability.ts';
export * from './below.ts';
export * from './forecast.ts';
export * from './history.ts';
export * from './miss-cause.ts';
export * from './months.ts';
export * from './reliability.ts';
export * from './review.ts';
export * from './statement.ts';
