// The import rule: web → api → core, server → api → core; web and server never meet; rooms are entered through their index; no cycles; core is pure.
const rooms = [
  'agreements',
  'entitlement',
  'orders',
  'register',
  'ribbon',
  'session',
  'setup',
  'signals',
  'standing',
  'today',
  'upkeep',
];

/** @type {import('dependency-cruiser').IConfiguration} */
module.exports = {
  forbidden: [
    {
      name: 'no-cycles',
      severity: 'error',
      from: {},
      to: { circular: true, viaOnly: { dependencyTypesNot: ['type-only'] } },
    },
    { name: 'unresolved', severity: 'error', from: {}, to: { couldNotResolve: true } },
    {
      name: 'core-imports-nothing',
      severity: 'error',
      from: { path: '^core/src', pathNot: '\\.test\\.ts$' },
      to: { pathNot: '^core/src' },
    },
    {
      name: 'api-imports-core-and-valibot',
      severity: 'error',
      from: { path: '^api/src' },
      to: { pathNot: '^(api/src|core/src|node_modules/valibot)' },
    },
    {
      name: 'web-imports-api-and-core',
      severity: 'error',
      from: { path: '^web/src' },
      to: { path: '^(server|demo|standins|commands|bench)/' },
    },
    {
      name: 'server-imports-api-and-core',
      severity: 'error',
      from: { path: '^server/src' },
      to: { path: '^(web|demo|standins|commands|bench|e2e)/' },
    },
    {
      name: 'standins-stand-alone',
      severity: 'error',
      from: { path: '^standins' },
      to: { path: '^(web|server|demo|commands)/' },
    },
    ...rooms.map((room) => ({
      name: `room-${room}-by-its-index`,
      severity: 'error',
      from: { path: '^server/src', pathNot: `^server/src/${room}/` },
      to: { path: `^server/src/${room}/`, pathNot: `^server/src/${room}/index\\.ts$` },
    })),
    ...[
      'time',
      'calendars',
      'recurrence',
      'entitlement',
      'service-levels',
      'orders',
      'upkeep',
      'signals',
      'register',
    ].map((room) => ({
      name: `core-${room}-by-its-index`,
      severity: 'error',
      from: { pathNot: `^core/src/${room}/` },
      to: { path: `^core/src/${room}/`, pathNot: `^core/src/${room}/index\\.ts$` },
    })),
    {
      name: 'platform-knows-no-room',
      severity: 'error',
      from: { path: '^server/src/platform' },
      to: { path: `^server/src/(${rooms.join('|')})/` },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.json' },
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'node', 'default', 'types'],
      extensions: ['.ts', '.tsx', '.js', '.json'],
    },
  },
};
