// A contract: one route's method, path, shapes and who may call it; the server registers it, OpenAPI describes it and the web calls it.
import type * as v from 'valibot';
import type { May } from '#core/people.ts';

export type Schema = v.GenericSchema;

/** What a screen shows and an act changes: screens that read a thing fetch again when something touches it. */
export const THINGS = [
  'session',
  'imports',
  'register',
  'agreements',
  'upkeep',
  'orders',
  'labour',
  'rota',
  'stores',
  'settle',
  'signals',
  'setup',
  'jobs',
  'outbox',
  'mail',
  'offers',
  'outlook',
  'looks',
  'field',
  'standing',
] as const;
export type Thing = (typeof THINGS)[number];

type Out<S> = S extends Schema ? v.InferOutput<S> : undefined;
type In<S> = S extends Schema ? v.InferInput<S> : undefined;

export type Contract<
  Params extends Schema | undefined,
  Query extends Schema | undefined,
  Body extends Schema | undefined,
  Answer extends Schema | undefined,
> = {
  readonly method: 'GET' | 'POST' | 'PUT' | 'DELETE';
  /** With `:name` for each parameter. */
  readonly path: string;
  readonly summary: string;
  readonly room: string;
  readonly may: May;
  readonly reads?: readonly Thing[];
  readonly touches?: readonly Thing[];
  readonly params?: Params;
  readonly query?: Query;
  readonly body?: Body;
  readonly answer?: Answer;
  /** Bytes; the server's own limit holds otherwise. */
  readonly bodyLimit?: number;
};

export type AnyContract = Contract<Schema | undefined, Schema | undefined, Schema | undefined, Schema | undefined>;

export function contract<
  Params extends Schema | undefined = undefined,
  Query extends Schema | undefined = undefined,
  Body extends Schema | undefined = undefined,
  Answer extends Schema | undefined = undefined,
>(given: Contract<Params, Query, Body, Answer>): Contract<Params, Query, Body, Answer> {
  return given;
}

/** What the server's handler gets, parsed. */
export type Asked<C> =
  C extends Contract<infer P, infer Q, infer B, Schema | undefined>
    ? { params: Out<P>; query: Out<Q>; body: Out<B> }
    : never;
/** What the caller sends. */
export type Sent<C> =
  C extends Contract<infer P, infer Q, infer B, Schema | undefined>
    ? { params: In<P>; query: In<Q>; body: In<B> }
    : never;
export type Answer<C> =
  C extends Contract<Schema | undefined, Schema | undefined, Schema | undefined, infer A> ? Out<A> : never;
/** The body of a request, parsed: what a command is given. */
export type BodyOf<C> = Asked<C> extends { body: infer B } ? B : never;
