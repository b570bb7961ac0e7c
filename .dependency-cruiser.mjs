// The import rule: web → api → core, server → api → core; web and server never meet; rooms are entered through their face; no cycles; core is pure.
import { readdirSync } from 'node:fs';

/** Every folder of a floor is a room, but the foundations. */
const roomsOf = (floor, ...foundations) =>
  readdirSync(`${import.meta.dirname}/${floor}`, { withFileTypes: true })
    .filter((entry) => entry.isDirectory() && !foundations.includes(entry.name))
    .map((entry) => entry.name);
const coreRooms = roomsOf('core/src');
const serverRooms = roomsOf('server/src', 'platform');
const webRooms = roomsOf('web/src', 'shell', 'parts');
const anyOf = (rooms) => `(${rooms.join('|')})`;

/** From outside, a room is entered by its faces only. */
const byItsFace = (floor, room, faces, may = '') => ({
  name: `${floor.split('/')[0]}-${room}-by-its-face`,
  severity: 'error',
  from: { path: `^${floor}`, pathNot: `^${floor}/${room}/|\\.test\\.tsx?$${may}` },
  to: { path: `^${floor}/${room}/`, pathNot: `^${floor}/${room}/${faces}$` },
});

/** @type {import('dependency-cruiser').IConfiguration} */
export default {
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
      from: { path: '^core/src', pathNot: '\\.test(ing)?\\.ts$' },
      to: { pathNot: '^core/src' },
    },
    {
      name: 'api-imports-core-and-valibot',
      severity: 'error',
      from: { path: '^api/src', pathNot: '\\.test\\.ts$' },
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
    ...coreRooms.map((room) => ({
      ...byItsFace('core/src', room, 'index\\.ts'),
      from: { pathNot: `^core/src/${room}/` },
    })),
    // A room's tables are a face of their own: what is stored may be read and joined by others.
    ...serverRooms.map((room) => byItsFace('server/src', room, '(index|tables|[a-z]+-tables)\\.ts')),
    // What plugs into the web's house is named by the list of rooms alone.
    ...webRooms.map((room) => byItsFace('web/src', room, 'index\\.ts', '|^web/src/rooms\\.tsx$')),
    {
      name: 'tables-know-tables',
      severity: 'error',
      from: { path: '^server/src/[^/]+/(tables|[a-z]+-tables)\\.ts$' },
      to: {
        path: '^server/src/',
        pathNot: '/(tables|[a-z]+-tables)\\.ts$|^server/src/platform/columns\\.ts$',
      },
    },
    {
      name: 'server-foundations-know-no-room',
      severity: 'error',
      from: { path: '^server/src/(platform/|room\\.ts$|rail\\.ts$|app\\.ts$)' },
      to: { path: `^server/src/${anyOf(serverRooms)}/` },
    },
    {
      name: 'web-foundations-know-no-room',
      severity: 'error',
      from: { path: '^web/src/(shell|parts)/' },
      to: { path: `^web/src/(${anyOf(webRooms)}/|rooms\\.tsx$)` },
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
