// A kind of job, with its ask parsed: rows were written by another version of the program, perhaps.
import * as v from 'valibot';
import type { House } from './http.ts';
import type { JobKind, Working } from './jobs.ts';

type Given<S extends v.GenericSchema> = {
  readonly kind: string;
  readonly says: string;
  readonly every?: JobKind['every'];
  /** Begun also when a server starts. */
  readonly atStart?: boolean;
  readonly ask: S;
  run(house: House, ask: v.InferOutput<S>, working: Working): Promise<string>;
  died?(house: House, ask: v.InferOutput<S>, reason: string): Promise<void>;
};

export function jobKind<S extends v.GenericSchema>(given: Given<S>): JobKind<House> {
  const { kind, says, every, atStart, ask: schema } = given;
  return {
    kind,
    says,
    ...(every !== undefined && { every }),
    ...(atStart && { atStart }),
    run: (house, ask, working) => given.run(house, v.parse(schema, ask), working),
    ...(given.died && {
      died: async (house: House, ask: unknown, reason: string) => given.died?.(house, v.parse(schema, ask), reason),
    }),
  };
}

/** For jobs that begin by themselves and need no telling what to do. */
export const NOTHING = v.object({});
