// Places on the wire: the tree, moving, merging and retiring, and sites on a map.
import * as v from 'valibot';
import type { CalendarId, CustomerId, DepotId, LocationId } from '#core/ids.ts';
import { WRITERS } from '#core/people.ts';
import { contract } from './contract.ts';
import { created, dateOut, done, idOf, idText, named, shortText, version } from './shapes.ts';

const treeNode = v.object({
  id: v.number(),
  parentId: v.nullable(v.number()),
  name: v.string(),
  zone: v.nullable(v.string()),
  address: v.nullable(v.string()),
  latitude: v.nullable(v.number()),
  longitude: v.nullable(v.number()),
  calendarId: v.nullable(v.number()),
  depotId: v.nullable(v.number()),
  joinDays: v.nullable(v.number()),
  accessNote: v.nullable(v.string()),
  retiredOn: v.nullable(dateOut),
  /** How many customers it is shared with itself. */
  shared: v.number(),
  assets: v.number(),
  version: v.number(),
});
export type TreeNode = v.InferOutput<typeof treeNode>;
export const readTree = contract({
  method: 'GET',
  path: '/api/customers/:id/tree',
  summary: 'The places of a customer',
  room: 'register',
  may: 'signed in',
  reads: ['register'],
  params: v.object({ id: idText<CustomerId>() }),
  answer: v.object({ customer: named, nodes: v.array(treeNode), withoutPlace: v.number() }),
});

const from = v.nullable(v.object({ value: v.string(), from: v.string() }));
export const placePage = v.object({
  ...treeNode.entries,
  path: v.array(named),
  inherited: v.object({
    address: from,
    zone: from,
    calendar: from,
    depot: from,
    accessNote: from,
    join: v.nullable(v.object({ value: v.number(), from: v.string() })),
  }),
  customers: v.array(named),
});
export type PlacePage = v.InferOutput<typeof placePage>;
const params = v.object({ id: idText<LocationId>() });
export const readPlace = contract({
  method: 'GET',
  path: '/api/locations/:id',
  summary: 'One place, with what it inherits and from where',
  room: 'register',
  may: 'signed in',
  reads: ['register'],
  params,
  answer: placePage,
});

const degrees = (limit: number, what: string) =>
  v.nullable(
    v.pipe(
      v.number(`Write the ${what} in degrees.`),
      v.minValue(-limit, `From -${limit} to ${limit} degrees.`),
      v.maxValue(limit, `From -${limit} to ${limit} degrees.`),
    ),
  );
const text = (most: number) =>
  v.nullable(v.pipe(v.string(), v.trim(), v.maxLength(most, `At most ${most} characters.`)));
export const position = {
  latitude: v.optional(degrees(90, 'latitude'), null),
  longitude: v.optional(degrees(180, 'longitude'), null),
};
export const placeIn = {
  name: shortText,
  address: text(300),
  zone: text(60),
  ...position,
  calendarId: v.optional(v.nullable(idOf<CalendarId>()), null),
  depotId: v.optional(v.nullable(idOf<DepotId>()), null),
  /** Visits that fall due within so many days of the first make one order; 0: each its own; null: as above. */
  joinDays: v.optional(
    v.nullable(
      v.pipe(
        v.number('Write a number of days.'),
        v.integer('Write whole days.'),
        v.minValue(0, 'From 0 up; 0 keeps each visit an order of its own.'),
        v.maxValue(60, 'At most 60 days.'),
      ),
    ),
    null,
  ),
  accessNote: v.optional(text(1000), null),
};
export const changeLocation = contract({
  method: 'PUT',
  path: '/api/locations/:id',
  summary: 'Change a place',
  room: 'register',
  may: WRITERS,
  touches: ['register', 'upkeep'],
  params,
  body: v.object({ version, ...placeIn }),
  answer: v.object({ version: v.number() }),
});
const newLocation = v.object({
  parentId: v.nullable(idOf<LocationId>()),
  customerId: idOf<CustomerId>(),
  ...placeIn,
});
export type NewLocation = v.InferInput<typeof newLocation>;
export const addLocation = contract({
  method: 'POST',
  path: '/api/locations',
  summary: 'Add a place below another, or at the top for a customer',
  room: 'register',
  may: WRITERS,
  touches: ['register'],
  body: newLocation,
  answer: created,
});

const movedValue = v.object({
  place: v.string(),
  field: v.string(),
  before: v.nullable(v.string()),
  after: v.nullable(v.string()),
});
/** What a change of the tree brings about, before it is done. */
export const treeEffect = v.object({
  places: v.number(),
  assets: v.number(),
  changes: v.array(movedValue),
  changesTotal: v.number(),
  /** Assets that gain or lose a coverage line, with their cover before and after. */
  covers: v.array(v.object({ tag: v.string(), before: v.string(), after: v.string() })),
  coversTotal: v.number(),
  /** Next due dates that shift because zone or calendar change. */
  dues: v.array(
    v.object({ tag: v.string(), before: v.nullable(dateOut), after: v.nullable(dateOut), reason: v.string() }),
  ),
  duesTotal: v.number(),
});
export type TreeEffect = v.InferOutput<typeof treeEffect>;
const moveIn = v.object({ parentId: v.nullable(idOf<LocationId>()), version });
export const previewMove = contract({
  method: 'POST',
  path: '/api/locations/:id/move/preview',
  summary: 'What moving a place would change',
  room: 'register',
  may: WRITERS,
  params,
  body: moveIn,
  answer: treeEffect,
});
export const moveLocation = contract({
  method: 'POST',
  path: '/api/locations/:id/move',
  summary: 'Move a place with everything below it',
  room: 'register',
  may: WRITERS,
  touches: ['register', 'agreements', 'upkeep'],
  params,
  body: moveIn,
  answer: done,
});
const mergeIn = v.object({ into: idOf<LocationId>(), version });
export const previewMerge = contract({
  method: 'POST',
  path: '/api/locations/:id/merge/preview',
  summary: 'What merging a place into another would change',
  room: 'register',
  may: WRITERS,
  params,
  body: mergeIn,
  answer: treeEffect,
});
export const mergeLocation = contract({
  method: 'POST',
  path: '/api/locations/:id/merge',
  summary: 'Merge a place into another: children and assets go there, it is retired',
  room: 'register',
  may: WRITERS,
  touches: ['register', 'agreements', 'upkeep'],
  params,
  body: mergeIn,
  answer: done,
});
export const retireLocation = contract({
  method: 'POST',
  path: '/api/locations/:id/retire',
  summary: 'Retire a place where nothing stands any more, or take it back into use',
  room: 'register',
  may: WRITERS,
  touches: ['register'],
  params,
  body: v.object({ version, retire: v.boolean() }),
  answer: done,
});
export const shareLocation = contract({
  method: 'PUT',
  path: '/api/locations/:id/share',
  summary: 'Share a place, with everything below it, with a customer, or end that',
  room: 'register',
  may: WRITERS,
  touches: ['register'],
  params,
  body: v.object({ customerId: idOf<CustomerId>(), share: v.boolean() }),
  answer: done,
});

const siteOut = v.object({
  id: v.number(),
  name: v.string(),
  address: v.nullable(v.string()),
  latitude: v.number(),
  longitude: v.number(),
  assets: v.number(),
});
export type SiteOut = v.InferOutput<typeof siteOut>;
export const listSites = contract({
  method: 'GET',
  path: '/api/customers/:id/sites',
  summary: 'Positions of a customer’s places',
  room: 'register',
  may: 'signed in',
  reads: ['register'],
  params: v.object({ id: idText<CustomerId>() }),
  answer: v.object({ items: v.array(siteOut), without: v.number() }),
});
export const sitesGeoJson = contract({
  method: 'GET',
  path: '/api/customers/:id/sites.geojson',
  summary: 'Positions of a customer’s places as GeoJSON (RFC 7946)',
  room: 'register',
  may: 'signed in',
  params: v.object({ id: idText<CustomerId>() }),
});
