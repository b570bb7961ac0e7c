// A kind of job, with its ask parsed: rows were written by another version of the program, perhaps.
import * as v from 'valibot';
import type { House } from './http.ts';
import type { JobKind, Working } from './jobs.ts';

type Given<S extends v.GenericSchema> = {
  readonly kind: string;
  readonly says: string;
  readonly every?: string;
  /** Begun also when a server starts. */
  readonly atStart?: boolean;
  readonly ask: S;
  run(house: House, ask: v.InferOutput<S>, working: Working): Promise<string>;
  died?(house: House, ask: v.InferOutput<S>, reason: string): Promise<void>;
};

export function jobKind<S extends v.GenericSchema>({ ask: schema, run, died, ...rest }: Given<S>): JobKind<House> {
  return {
    ...rest,
    run: (house, ask, working) => run(house, v.parse(schema, ask), working),
    ...(died && { died: (house: House, ask: unknown, reason: string) => died(house, v.parse(schema, ask), reason) }),
  };
}

/** For jobs that begin by themselves and need no telling what to do. */
export const NOTHING = v.object({});
