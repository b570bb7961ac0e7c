// Routes from contracts: parsing, authorisation, refusals as problem details, OpenAPI.
import { toJsonSchema } from '@valibot/to-json-schema';
import type { FastifyError, FastifyInstance, FastifyReply, FastifyRequest, FastifySchema } from 'fastify';
import * as v from 'valibot';
import type { AnyContract, Answer, Asked, Contract, Schema } from '#api/contract.ts';
import { problem, type Problem, type Role } from '#api/shapes.ts';
import type { PersonId } from '#core/ids.ts';
import { instant, type Instant, type Zone } from '#core/time/index.ts';
import { refusal } from '#core/refusal.ts';
import type { Config } from './config.ts';
import type { Database } from './database.ts';
import type { Live } from './live.ts';
import { problemOf, Refused } from './refuse.ts';

export type Person = {
  readonly id: PersonId;
  readonly name: string;
  readonly email: string;
  readonly role: Role;
  readonly zone: Zone;
};

/** What every handler stands on. `now` is read once for each request. */
export type House = {
  readonly config: Config;
  readonly database: Database;
  readonly live: Live;
  readonly readNow: () => Instant;
};

export type Asking<C> = Asked<C> & {
  readonly now: Instant;
  readonly who: Person;
  readonly request: FastifyRequest;
  readonly reply: FastifyReply;
};

declare module 'fastify' {
  interface FastifyRequest {
    person: Person | null;
    /** Set when a gateway's key was presented instead of a session. */
    gatewayName: string | null;
  }
}

/** Who may call a route: some roles, anybody signed in, a gateway or some roles, or anybody at all. */
export type Access = readonly Role[] | 'signed in' | 'anybody' | { readonly gatewayOr: readonly Role[] };

const NOBODY: Person = { id: 0 as PersonId, name: 'nobody', email: '', role: 'technician', zone: 'UTC' as Zone };

export function authorised(request: FastifyRequest, access: Access): Person {
  if (access === 'anybody') return request.person ?? NOBODY;
  if (typeof access === 'object' && 'gatewayOr' in access && request.gatewayName !== null)
    return { ...NOBODY, name: request.gatewayName };
  if (!request.person) throw new Refused([refusal('signed-out', 'Sign in first.')]);
  const roles = access === 'signed in' ? null : 'gatewayOr' in access ? access.gatewayOr : access;
  if (roles && !roles.includes(request.person.role)) {
    throw new Refused([
      refusal('not-allowed', `This is for: ${roles.join(', ')}. You are signed in as ${request.person.role}.`),
    ]);
  }
  return request.person;
}

function parsePart(schema: Schema | undefined, value: unknown): unknown {
  if (!schema) return undefined;
  const read = v.safeParse(schema, value ?? {});
  if (read.success) return read.output;
  throw new Refused(read.issues.map((issue) => refusal('invalid', issue.message, v.getDotPath(issue) ?? undefined)));
}

function jsonSchema(schema: Schema | undefined): Record<string, unknown> | undefined {
  if (!schema) return undefined;
  const { $schema: _, ...rest } = toJsonSchema(schema, { errorMode: 'ignore', typeMode: 'input' }) as Record<
    string,
    unknown
  >;
  return rest;
}

function openApiOf(contract: AnyContract): FastifySchema {
  const part = (key: 'params' | 'query' | 'body') => jsonSchema(contract[key]);
  const [params, querystring, body] = [part('params'), part('query'), part('body')];
  const answer = jsonSchema(contract.answer);
  return {
    summary: contract.summary,
    tags: [contract.room],
    ...(params && { params }),
    ...(querystring && { querystring }),
    ...(body && { body }),
    response: {
      ...(answer && { 200: { description: 'Answer', ...answer } }),
      '4xx': { description: 'Problem details (RFC 9457)', ...jsonSchema(problem) },
    },
  };
}

/** Registers a contract: who may call it, and what answers. The answer's shape is checked outside production. */
export function serve<
  P extends Schema | undefined,
  Q extends Schema | undefined,
  B extends Schema | undefined,
  A extends Schema | undefined,
>(
  app: FastifyInstance,
  house: House,
  contract: Contract<P, Q, B, A>,
  access: Access,
  handle: (asking: Asking<Contract<P, Q, B, A>>) => Promise<Answer<Contract<P, Q, B, A>>>,
  config: Record<string, unknown> = {},
): void {
  app.route({
    method: contract.method,
    url: contract.path,
    schema: openApiOf(contract),
    config,
    ...(contract.bodyLimit && { bodyLimit: contract.bodyLimit }),
    // Parsed below, where refusals get their fields.
    validatorCompiler: () => (value: unknown) => ({ value }),
    serializerCompiler: () => (value) => JSON.stringify(value),
    async handler(request, reply) {
      const who = authorised(request, access);
      const asked = {
        params: parsePart(contract.params, request.params),
        query: parsePart(contract.query, request.query),
        body: parsePart(contract.body, request.body),
      } as Asked<Contract<P, Q, B, A>>;
      const answer = await handle({ ...asked, now: house.readNow(), who, request, reply });
      if (!house.config.production && contract.answer) v.parse(contract.answer, answer);
      return answer;
    },
  });
}

export function realNow(fixed: Instant | null): () => Instant {
  return () => fixed ?? instant(Date.now());
}

function problemOfFault(error: FastifyError): Problem {
  if (error.statusCode === 413)
    return problemOf([refusal('too-large', 'The request is larger than this route takes; send less at a time.')]);
  if (error.statusCode === 429)
    return {
      ...problemOf([refusal('not-allowed', error.message)]),
      status: 429,
      title: 'Too many requests',
      code: 'too-many',
    };
  if (error.statusCode !== undefined && error.statusCode >= 400 && error.statusCode < 500)
    return { ...problemOf([refusal('malformed', error.message)]), status: error.statusCode };
  return {
    type: 'urn:stavok:problem:fault',
    title: 'Fault',
    status: 500,
    detail: 'Something went wrong on our side; it has been logged. Nothing was changed.',
    code: 'fault',
    errors: [],
  };
}

/** The one error handler: refusals are answers, everything else is logged as a fault. */
export function installErrorHandler(app: FastifyInstance): void {
  const send = (reply: FastifyReply, body: Problem) =>
    reply
      .code(body.status)
      .type('application/problem+json')
      .serializer((x: unknown) => JSON.stringify(x))
      .send(body);
  app.setErrorHandler((error: FastifyError | Refused, request, reply) => {
    if (error instanceof Refused) return send(reply, problemOf(error.refusals, error.current));
    const body = problemOfFault(error);
    if (body.status >= 500) request.log.error({ err: error }, 'fault');
    return send(reply, body);
  });
  app.setNotFoundHandler((request, reply) =>
    send(
      reply,
      problemOf([refusal('not-found', `There is nothing at ${request.method} ${request.url.split('?')[0]}.`)]),
    ),
  );
}
