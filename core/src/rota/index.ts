// Rota: who can go where and when, and who should.
export * from './travel.ts';
export * from './person-day.ts';
export * from './candidates.ts';
export * from './plan-cost.ts';
export * from './plan.ts';
export * from './appointment.ts';
export * from './absence.ts';
export * from './latest-start.ts';
export * from './forecast.ts';
export * from './why-left.ts';
