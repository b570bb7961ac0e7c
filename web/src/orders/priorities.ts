// Priorities as people choose them.
export const PRIORITIES = [
  [1, '1: down, stock or patients at risk'],
  [2, '2: works poorly'],
  [3, '3: can wait'],
  [4, '4: when somebody is there anyway'],
] as const;
