// Places: paths from the top of the tree and what they inherit, for many places at once.
import { inArray } from 'drizzle-orm';
import { asId, type CalendarId, type DepotId, type LocationId } from '#core/ids.ts';
import { inherit, pathTo, type PlaceNode, type Position } from '#core/places/index.ts';
import { parseZone, type Zone } from '#core/time/index.ts';
import type { Db } from '../platform/database.ts';
import { location } from './tables.ts';

export type Place = {
  readonly path: readonly PlaceNode<LocationId>[];
  readonly zone: Zone | null;
  readonly zoneFrom: string | null;
  readonly address: { readonly value: string; readonly from: string } | null;
  readonly calendar: { readonly value: CalendarId; readonly from: string } | null;
  readonly depot: { readonly value: DepotId; readonly from: string } | null;
  /** Within how many days visits make one order, and below which place. */
  readonly join: { readonly days: number; readonly placeId: LocationId; readonly from: string } | null;
  readonly position: Position | null;
  readonly accessNote: { readonly value: string; readonly from: string } | null;
  readonly label: string;
};

const NOWHERE: Place = {
  path: [],
  zone: null,
  zoneFrom: null,
  address: null,
  calendar: null,
  depot: null,
  join: null,
  position: null,
  accessNote: null,
  label: 'no place',
};

export type Places = { of(id: LocationId | null): Place };

/** The top of the tree, by the path of a place below it. */
export const topOf = (path: string): LocationId => Number(path.split('/')[1]) as LocationId;

/** Loads the given places and everything above them in one query. */
export async function placesOf(
  db: Db,
  rows: readonly { readonly id: LocationId | null; readonly path: string | null }[],
): Promise<Places> {
  const ids = [
    ...new Set(
      rows.flatMap((r) =>
        (r.path ?? '')
          .split('/')
          .filter((s) => s !== '')
          .map((s) => Number(s) as LocationId),
      ),
    ),
  ];
  const nodes = new Map<LocationId, PlaceNode<LocationId>>();
  for (let i = 0; i < ids.length; i += 2000) {
    const found = await db
      .select({
        id: location.id,
        parentId: location.parentId,
        name: location.name,
        address: location.address,
        zone: location.zone,
        latitude: location.latitude,
        longitude: location.longitude,
        calendarId: location.calendarId,
        depotId: location.depotId,
        joinDays: location.joinDays,
        accessNote: location.accessNote,
      })
      .from(location)
      .where(inArray(location.id, ids.slice(i, i + 2000)));
    for (const node of found) nodes.set(node.id, node);
  }
  const known = new Map<LocationId, Place>();
  const read = (id: LocationId): Place => {
    const path = pathTo(nodes, id);
    const zone = inherit(path, 'zone');
    const address = inherit(path, 'address');
    const calendar = inherit(path, 'calendarId');
    const depot = inherit(path, 'depotId');
    const join = inherit(path, 'joinDays');
    const [latitude, longitude] = [inherit(path, 'latitude'), inherit(path, 'longitude')];
    const accessNote = inherit(path, 'accessNote');
    return {
      path,
      zone: zone && parseZone(zone.value),
      zoneFrom: zone?.from.name ?? null,
      address: address && { value: address.value, from: address.from.name },
      calendar: calendar && { value: asId<CalendarId>(calendar.value), from: calendar.from.name },
      depot: depot && { value: asId<DepotId>(depot.value), from: depot.from.name },
      join: join && { days: join.value, placeId: join.from.id, from: join.from.name },
      position: latitude && longitude && { latitude: latitude.value, longitude: longitude.value },
      accessNote: accessNote && { value: accessNote.value, from: accessNote.from.name },
      label: path.map((n) => n.name).join(' · '),
    };
  };
  return {
    of(id) {
      if (id === null) return NOWHERE;
      let place = known.get(id);
      if (!place) known.set(id, (place = read(id)));
      return place;
    },
  };
}
