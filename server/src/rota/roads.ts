// Travel as this house reckons it: its own speeds, and times somebody measured.
import { randomUUID } from 'node:crypto';
import { eq, inArray } from 'drizzle-orm';
import type { BodyOf } from '#api/contract.ts';
import type { keepTravel, TravelOut } from '#api/rota-people.ts';
import type { DepotId, LocationId } from '#core/ids.ts';
import { checkTravelRules, knownTimes, PLAIN_ROADS, TRAVEL_RULES, type Roads } from '#core/rota/index.ts';
import { depot } from '../depots/tables.ts';
import { location } from '../places/tables.ts';
import type { Db, Tx } from '../platform/database.ts';
import { Refused, stale } from '../platform/refuse.ts';
import type { Write } from '../platform/writing.ts';
import { travelSetting, travelTime } from './tables.ts';

const HOUSE = 1;

/** What was read last, by its stamp: whatever changes travel changes that. */
let read: { readonly stamp: string; readonly roads: Roads } | null = null;

const timesOf = async (db: Db): Promise<[string, string, number][]> =>
  (await db.select().from(travelTime)).map((t) => [t.fromSpot, t.toSpot, t.minutes]);

export async function roadsOf(db: Db): Promise<Roads> {
  const [kept] = await db.select().from(travelSetting).where(eq(travelSetting.id, HOUSE));
  if (!kept) return PLAIN_ROADS;
  if (read?.stamp === kept.stamp) return read.roads;
  const roads = { rules: kept.rules ?? TRAVEL_RULES, known: knownTimes(await timesOf(db)) };
  read = { stamp: kept.stamp, roads };
  return roads;
}

/** Said whenever times or rules of travel changed, in the transaction that changes them. */
export async function travelChanged({ db }: Tx): Promise<void> {
  const stamp = randomUUID();
  await db.insert(travelSetting).values({ id: HOUSE, rules: null, stamp }).onDuplicateKeyUpdate({ set: { stamp } });
}

const SHOWN = 200;

/** What the keys of spots stand for; what is gone keeps its key. */
async function namesOf(db: Db, keys: readonly string[]): Promise<(key: string) => string> {
  const idsOf = (kind: string): number[] =>
    keys.flatMap((k) => (k.startsWith(`${kind} `) ? [Number(k.slice(kind.length + 1))] : []));
  const [depots, places] = [idsOf('depot') as DepotId[], idsOf('place') as LocationId[]];
  const [ofDepots, ofPlaces] = await Promise.all([
    depots.length === 0 ? [] : db.select().from(depot).where(inArray(depot.id, depots)),
    places.length === 0
      ? []
      : db.select({ id: location.id, name: location.fullName }).from(location).where(inArray(location.id, places)),
  ]);
  const names = new Map<string, string>([
    ...ofDepots.map((d) => [`depot ${d.id}`, d.name] as const),
    ...ofPlaces.map((l) => [`place ${l.id}`, l.name] as const),
  ]);
  return (key) => names.get(key) ?? key;
}

export async function readTravelOf(db: Db): Promise<TravelOut> {
  const [[kept], known] = await Promise.all([
    db.select().from(travelSetting).where(eq(travelSetting.id, HOUSE)),
    timesOf(db),
  ]);
  const { detour, bands, fixedMinutes } = kept?.rules ?? TRAVEL_RULES;
  const first = known.slice(0, SHOWN);
  const name = await namesOf(db, [...new Set(first.flatMap(([from, to]) => [from, to]))]);
  return {
    ...{ version: kept?.version ?? 0, detour, fixedMinutes, bands: bands.map((b) => ({ ...b })), known },
    shown: first.map(([from, to, minutes]) => ({ from: name(from), to: name(to), minutes })),
  };
}

/** Refused: rules that cannot be, each at its field; and what somebody changed meanwhile. */
export function keepTravelOf(write: Write, { version, ...rules }: BodyOf<typeof keepTravel>): Promise<void> {
  const wrong = checkTravelRules(rules);
  if (wrong.length > 0) throw new Refused(wrong);
  return write(async (tx, told) => {
    const [held] = await tx.db.select().from(travelSetting).where(eq(travelSetting.id, HOUSE)).for('update');
    if ((held?.version ?? 0) !== version) stale({ ...(held?.rules ?? TRAVEL_RULES), version: held?.version ?? 0 });
    const kept = { rules, stamp: randomUUID(), version: version + 1 };
    if (held) await tx.db.update(travelSetting).set(kept).where(eq(travelSetting.id, HOUSE));
    else await tx.db.insert(travelSetting).values({ id: HOUSE, ...kept });
    told({ subject: 'travel', id: HOUSE, text: `how travel is reckoned: detour ${rules.detour}` });
  });
}
