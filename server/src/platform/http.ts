// Routes from contracts: parsing, authorisation, refusals as problem details, OpenAPI.
import { toJsonSchema } from '@valibot/to-json-schema';
import type { FastifyError, FastifyInstance, FastifyReply, FastifyRequest, FastifySchema } from 'fastify';
import * as v from 'valibot';
import type { AnyContract, Answer, Asked, Contract, Schema } from '#api/contract.ts';
import { sayIssue } from '#api/say-issue.ts';
import { problem, type Problem } from '#api/shapes.ts';
import type { PersonId } from '#core/ids.ts';
import { mayCall, rolesOf, type May, type Role } from '#core/people.ts';
import { instant, type Instant, type Zone } from '#core/time/index.ts';
import { refusal, type RefusalCode } from '#core/refusal.ts';
import type { Config } from './config.ts';
import { errnoOf, isDatabaseGone, type Database } from './database.ts';
import type { FinderSource } from './finder-source.ts';
import type { JobKind } from './jobs.ts';
import type { Live } from './live.ts';
import type { Lane } from './lanes.ts';
import type { MessageKind } from './message-kind.ts';
import type { PlaceMerged } from './place-merged.ts';
import { CutShort, problemOf, Refused } from './refuse.ts';
import { writeAs, type Write } from './writing.ts';

export type Person = {
  readonly id: PersonId;
  readonly name: string;
  readonly email: string;
  readonly role: Role;
  readonly zone: Zone;
  /** They tell it by their phone, which may have been out of reach when it happened. */
  readonly onSite?: true;
};

/** What every handler stands on. `now` is read once for each request. */
export type House = {
  readonly config: Config;
  readonly database: Database;
  readonly live: Live;
  readonly readNow: () => Instant;
  /** What the rooms let the finder find. */
  readonly found: readonly FinderSource[];
  /** What the rooms have on the time line of assets. */
  readonly lanes: readonly Lane[];
  /** What the rooms do where two places become one. */
  readonly placeMerged: readonly PlaceMerged[];
  /** What the rooms do beside requests, and a bell that wakes whoever does it. */
  readonly jobs: readonly JobKind<House>[];
  readonly ring: () => void;
  /** What the rooms tell people outside. */
  readonly messages: readonly MessageKind[];
};

export type Asking<C> = Asked<C> & {
  readonly now: Instant;
  readonly who: Person;
  /** One transaction for the change, its audit rows, and the notice to screens that show what the contract touches. */
  readonly write: Write;
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

const NOBODY: Person = { id: 0 as PersonId, name: 'nobody', email: '', role: 'technician', zone: 'UTC' as Zone };

export function authorised(request: FastifyRequest, may: May): Person {
  const { person } = request;
  if (may === 'anybody') return person ?? NOBODY;
  if (typeof may === 'object' && 'gatewayOr' in may && request.gatewayName !== null)
    return { ...NOBODY, name: request.gatewayName };
  if (!person) throw new Refused([refusal('signed-out', 'Sign in first.')]);
  if (!mayCall(may, person.role))
    throw new Refused([
      refusal('not-allowed', `This is for: ${(rolesOf(may) ?? []).join(', ')}. You are signed in as ${person.role}.`),
    ]);
  return person;
}

const HALF_CHARACTER = /\p{Surrogate}/u;

/** Text with half of a character (a lone surrogate) cannot be kept nor sent on. */
function findBrokenText(value: unknown, path: string): string | null {
  if (typeof value === 'string') return HALF_CHARACTER.test(value) ? path : null;
  if (typeof value !== 'object' || value === null || value instanceof Uint8Array) return null;
  for (const [key, held] of Object.entries(value)) {
    const found = HALF_CHARACTER.test(key) ? path : findBrokenText(held, path === '' ? key : `${path}.${key}`);
    if (found !== null) return found;
  }
  return null;
}

function parsePart(schema: Schema | undefined, value: unknown): unknown {
  if (!schema) return undefined;
  const broken = findBrokenText(value, '');
  if (broken !== null)
    throw new Refused([refusal('invalid', 'This text holds half of a character; write it anew.', broken)]);
  const read = v.safeParse(schema, value ?? {});
  if (read.success) return read.output;
  throw new Refused(read.issues.map((issue) => refusal('invalid', sayIssue(issue), v.getDotPath(issue) ?? undefined)));
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

/** Registers a contract and what answers it. The answer's shape is checked outside production. */
export function serve<
  P extends Schema | undefined,
  Q extends Schema | undefined,
  B extends Schema | undefined,
  A extends Schema | undefined,
>(
  app: FastifyInstance,
  house: House,
  contract: Contract<P, Q, B, A>,
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
      const who = authorised(request, contract.may);
      const asked = {
        params: parsePart(contract.params, request.params),
        query: parsePart(contract.query, request.query),
        body: parsePart(contract.body, request.body),
      } as Asked<Contract<P, Q, B, A>>;
      const write = writeAs(house.database, who, contract);
      const answer = await handle({ ...asked, now: house.readNow(), who, write, request, reply });
      if (!house.config.production && contract.answer) v.parse(contract.answer, answer);
      return answer;
    },
  });
}

export function realNow(fixed: Instant | null): () => Instant {
  return () => fixed ?? instant(Date.now());
}

const TRY_AGAIN_SECONDS = 5;

const passing = (code: string, title: string, status: number, detail: string): Problem => ({
  type: `urn:stavok:problem:${code}`,
  title,
  status,
  detail,
  code,
  errors: [],
});

/** What a rule of the tables refused and no command foresaw; a net under the commands' own, better words. */
const OF_TABLES: Readonly<Record<number, readonly [RefusalCode, string]>> = {
  1062: ['taken', 'Something with this name or number exists already; choose another.'],
  1264: ['invalid', 'A number is larger or smaller than what can be kept; give a smaller one.'],
  1366: ['invalid', 'A text holds characters that cannot be kept; write it anew.'],
  1406: ['invalid', 'A text is longer than what can be kept; shorten it.'],
  1292: ['invalid', 'A date or time lies outside what can be kept; check it.'],
  1451: ['conflict', 'Something else depends on this; change that first.'],
  1452: ['not-found', 'Something named here does not exist, or not any more; look at it again.'],
};

function problemOfFault(error: FastifyError): Problem {
  if (error instanceof CutShort) return passing('cut-short', 'Cut short', 503, error.message);
  if (isDatabaseGone(error))
    return passing(
      'unavailable',
      'Not available',
      503,
      'The database does not answer just now; try again in a moment.',
    );
  const known = OF_TABLES[errnoOf(error) ?? 0];
  if (known) return problemOf([refusal(...known)]);
  if (error.statusCode === 413)
    return problemOf([refusal('too-large', 'The request is larger than this route takes; send less at a time.')]);
  if (error.statusCode === 415)
    return {
      ...problemOf([refusal('malformed', 'Send JSON, with the content type application/json.')]),
      status: 415,
    };
  if (error.statusCode === 429) return passing('too-many', 'Too many requests', 429, error.message);
  if (error.statusCode !== undefined && error.statusCode >= 400 && error.statusCode < 500)
    return { ...problemOf([refusal('malformed', error.message)]), status: error.statusCode };
  return passing(
    'fault',
    'Fault',
    500,
    'Something went wrong on our side; it has been logged. Look whether your change was kept before you repeat it.',
  );
}

/** The one error handler: refusals are answers, everything else is logged as a fault. */
export function installErrorHandler(app: FastifyInstance): void {
  const send = (request: FastifyRequest, reply: FastifyReply, body: Problem) =>
    reply
      .code(body.status)
      .type('application/problem+json')
      .serializer((x: unknown) => JSON.stringify(x))
      .send({ ...body, instance: `urn:stavok:request:${request.id}` } satisfies Problem);
  app.setErrorHandler((error: FastifyError | Refused, request, reply) => {
    if (error instanceof Refused) return send(request, reply, problemOf(error.refusals, error.current));
    const body = problemOfFault(error);
    if (body.status >= 500 || OF_TABLES[errnoOf(error) ?? 0]) request.log.error({ err: error }, 'fault');
    if (body.status === 503) void reply.header('retry-after', TRY_AGAIN_SECONDS);
    return send(request, reply, body);
  });
  app.setNotFoundHandler((request, reply) =>
    send(
      request,
      reply,
      problemOf([refusal('not-found', `There is nothing at ${request.method} ${request.url.split('?')[0]}.`)]),
    ),
  );
}
