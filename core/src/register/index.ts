// Register: places, what they inherit, and importing a register.
export * from './place.ts';
export * from './import.ts';
