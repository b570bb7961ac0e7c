// The server put together: security, rooms, live updates, documentation, the web application, health.
import { randomBytes } from 'node:crypto';
import { Socket } from 'node:net';
import compress from '@fastify/compress';
import helmet from '@fastify/helmet';
import { fastifySSE } from '@fastify/sse';
import fastifyStatic from '@fastify/static';
import swagger from '@fastify/swagger';
import swaggerUi from '@fastify/swagger-ui';
import Fastify, { type FastifyInstance } from 'fastify';
import { sql } from 'drizzle-orm';
import { authentication } from './platform/auth.ts';
import type { Config } from './platform/config.ts';
import type { Database } from './platform/database.ts';
import { authorised, installErrorHandler, realNow, type House } from './platform/http.ts';
import { startLive } from './platform/live.ts';
import { Refused } from './platform/refuse.ts';
import { startJobs, type JobWorker } from './platform/jobs.ts';
import { railRoutes } from './rail.ts';
import type { Going, Room } from './room.ts';
import { refusal } from '#core/refusal.ts';

const BODY_LIMIT = 1024 * 1024;

const STANDS_STILL_MS = 10_000;

/** A request whose body stops coming is closed; how long an answer takes is another matter. */
function closeUnfinished(app: FastifyInstance): void {
  app.addHook('onRequest', (request, _reply, next) => {
    const { raw } = request;
    const hasBody = Number(raw.headers['content-length'] ?? 0) > 0 || raw.headers['transfer-encoding'] !== undefined;
    const { socket } = raw;
    if (hasBody && !raw.complete && socket instanceof Socket) {
      const close = (): void => void socket.destroy();
      socket.setTimeout(STANDS_STILL_MS, close);
      const received = (): void => {
        socket.setTimeout(0);
        socket.off('timeout', close);
      };
      raw.once('end', received).once('close', received);
    }
    next();
  });
}

async function addDocumentation(app: FastifyInstance, config: Config): Promise<void> {
  await app.register(swagger, {
    openapi: {
      openapi: '3.1.0',
      info: {
        title: 'Stavok',
        version: '0.1.0',
        description: 'Service contracts for maintained machines. Errors are problem details (RFC 9457).',
      },
    },
  });
  await app.register(swaggerUi, {
    routePrefix: '/api/docs',
    staticCSP: true,
    // Outside the demo the description is for people of the house.
    uiHooks: {
      preHandler: (request, _reply, next) => {
        if (!config.demo) authorised(request, 'signed in');
        next();
      },
    },
  });
}

function addHealth(app: FastifyInstance, database: Database, going: ReadonlyMap<string, Going>): void {
  app.get('/api/health', { schema: { hide: true } }, async () => ({ alive: true }));
  app.get('/api/ready', { schema: { hide: true } }, async (_request, reply) => {
    const isDatabaseUp = await database.db.execute(sql`select 1`).then(
      () => true,
      () => false,
    );
    const rooms = Object.fromEntries([...going].flatMap(([name, what]) => (what.isUp ? [[name, what.isUp()]] : [])));
    const isReady = isDatabaseUp && Object.values(rooms).every(Boolean);
    return reply.code(isReady ? 200 : 503).send({ database: isDatabaseUp, ...rooms });
  });
}

function addLive(app: FastifyInstance, house: House): void {
  app.get('/api/live', { sse: { kind: 'only' }, schema: { hide: true } }, async (request, reply) => {
    if (!request.person) throw new Refused([refusal('signed-out', 'Sign in first.')]);
    const { sse } = reply;
    sse.keepAlive();
    await sse.send({ event: 'hello', data: {} });
    const leave = house.live.subscribe((tags) => {
      sse.send({ event: 'changed', data: tags }).catch(() => leave());
    });
    sse.onClose(leave);
  });
}

/** The web application: hashed files cached for good, every other path the page itself. */
async function addWeb(app: FastifyInstance, root: string): Promise<void> {
  await app.register(fastifyStatic, {
    root,
    wildcard: false,
    index: false,
    preCompressed: true,
    setHeaders: (reply, path) =>
      void reply.header(
        'cache-control',
        path.includes('/assets/') ? 'public, max-age=31536000, immutable' : 'no-cache',
      ),
  });
  // What a phone keeps of Field is told from there by one path with a slash at its end.
  app.get('/field', { schema: { hide: true } }, (_request, reply) => reply.redirect('/field/'));
  app.get('/*', { schema: { hide: true } }, (request, reply) => {
    if (request.url.startsWith('/api/')) return reply.callNotFound();
    const page = request.url.startsWith('/field/') ? 'field/index.html' : 'index.html';
    return reply.header('cache-control', 'no-cache').sendFile(page);
  });
}

export async function buildApp(config: Config, database: Database, rooms: readonly Room[]): Promise<FastifyInstance> {
  const app = Fastify({
    logger: { level: config.logLevel, redact: ['req.headers.cookie', 'req.headers.authorization'] },
    bodyLimit: BODY_LIMIT,
    // A machine that is busy with something else may be slow at a start; that is no reason to give up.
    pluginTimeout: 60_000,
    // Short enough to be read out over the telephone.
    genReqId: () => randomBytes(5).toString('hex'),
    trustProxy: config.trustedProxies.length > 0 ? [...config.trustedProxies] : false,
    // The whole of a request within two minutes; one that stands still is closed much sooner (below).
    requestTimeout: 120_000,
    http: { connectionsCheckingInterval: 2000, headersTimeout: 10_000 },
    routerOptions: { maxParamLength: 200 },
  });
  const live = startLive(database, (error) => app.log.error({ err: error }, 'live updates'));
  let worker: JobWorker | null = null;
  const house: House = {
    config,
    database,
    live,
    readNow: realNow(config.fixedNow),
    found: rooms.flatMap((room) => room.found ?? []),
    lanes: rooms.flatMap((room) => room.lane ?? []),
    placeMerged: rooms.flatMap((room) => room.placeMerged ?? []),
    jobs: rooms.flatMap((room) => room.jobs ?? []),
    ring: () => worker?.wake(),
    messages: rooms.flatMap((room) => room.messages ?? []),
  };
  installErrorHandler(app);
  closeUnfinished(app);
  app.addHook('onSend', async (request, reply) => {
    if (request.url.startsWith('/api/') && !reply.hasHeader('cache-control')) reply.header('cache-control', 'no-store');
  });
  // SenML in CBOR has a media type of its own too (RFC 8428, section 13.3).
  const asBytes = ['application/octet-stream', 'application/senml+cbor', 'application/cbor', 'text/csv'];
  app.addContentTypeParser(asBytes, { parseAs: 'buffer' }, (_request, body, parsed) => parsed(null, body));
  // SenML's own media type is JSON (RFC 8428, section 13.3).
  app.addContentTypeParser('application/senml+json', { parseAs: 'string' }, app.getDefaultJsonParser('error', 'error'));
  await app.register(helmet, {
    contentSecurityPolicy: {
      directives: {
        defaultSrc: ["'none'"],
        scriptSrc: ["'self'"],
        styleSrc: ["'self'"],
        imgSrc: ["'self'", 'data:', 'blob:'],
        workerSrc: ["'self'"],
        manifestSrc: ["'self'"],
        fontSrc: ["'self'"],
        connectSrc: ["'self'"],
        formAction: ["'self'"],
        frameAncestors: ["'none'"],
        baseUri: ["'none'"],
        upgradeInsecureRequests: null,
      },
    },
    hsts: false,
  });
  await app.register(compress, { threshold: 2048 });
  await addDocumentation(app, config);
  await app.register(fastifySSE, { heartbeatInterval: 20_000 });
  await app.register(authentication, { house });
  const going = new Map<string, Going>();
  addHealth(app, database, going);
  addLive(app, house);
  for (const routes of rooms.flatMap((room) => room.routes ?? [])) await app.register(routes, { house });
  await app.register(railRoutes, { house, rooms });
  if (config.webRoot) await addWeb(app, config.webRoot);
  app.addHook('onReady', async () => {
    for (const { name, keep } of rooms) {
      const kept = keep?.(house, app.log);
      if (kept) going.set(name, kept);
    }
    worker = startJobs(database, house.jobs, house, house.readNow, app.log);
  });
  app.addHook('preClose', async () => {
    await Promise.all([worker?.stop(), ...[...going.values()].map((kept) => kept.stop())]);
    await live.stop();
  });
  return app;
}
