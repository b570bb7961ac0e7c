// Devices that report and that nobody knows: they wait by name, until somebody ties them to a machine or refuses them.
import { count, eq, inArray, isNull, sql } from 'drizzle-orm';
import { instant, MINUTE, type Instant } from '#core/time/index.ts';
import { instantText } from '../platform/columns.ts';
import type { Db } from '../platform/database.ts';
import { unknownDevice } from './tables.ts';

/** More names than that are no devices: they are named to whoever sent them, and not listed. */
const MOST_UNKNOWN = 1000;
const CHANNELS_LENGTH = 200;

type Heard = { readonly key: string; readonly channel: string; readonly at: Instant; readonly now: Instant };

/** Notes that they were heard: how often, and on which channels. Names that were refused are left as they are. */
export async function noteUnknown(db: Db, heard: readonly Heard[]): Promise<void> {
  if (heard.length === 0) return;
  const names = new Map<string, { key: string; channels: Set<string>; n: number; now: Instant }>();
  for (const { key, channel, now } of heard) {
    const own = names.get(key.toLowerCase()) ?? { key, channels: new Set<string>(), n: 0, now };
    own.channels.add(channel);
    names.set(key.toLowerCase(), { ...own, n: own.n + 1, now });
  }
  const keys = [...names.values()].map((n) => n.key).filter((key) => key.length <= 100);
  if (keys.length === 0) return;
  const known = await db.select().from(unknownDevice).where(inArray(unknownDevice.deviceKey, keys));
  const knownKeys = new Map(known.map((k) => [k.deviceKey.toLowerCase(), k]));
  const [listed] = await db.select({ n: count() }).from(unknownDevice).where(isNull(unknownDevice.refusedAt));
  let room = MOST_UNKNOWN - (listed?.n ?? 0);
  for (const [name, { key, channels, n, now }] of names) {
    const row = knownKeys.get(name);
    // Once a minute is enough to say that it still reports.
    if (row ? row.refusedAt !== null || row.lastAt > instant(now - MINUTE) : key.length > 100 || (room -= 1) < 0)
      continue;
    const all = [...new Set([...(row?.channels ?? '').split(', ').filter(Boolean), ...channels])].join(', ');
    await db
      .insert(unknownDevice)
      .values({ deviceKey: key, firstAt: now, lastAt: now, records: n, channels: all.slice(0, CHANNELS_LENGTH) })
      .onDuplicateKeyUpdate({
        set: {
          lastAt: sql`greatest(${unknownDevice.lastAt}, ${instantText(now)})`,
          records: sql`${unknownDevice.records} + ${n}`,
          channels: all.slice(0, CHANNELS_LENGTH),
        },
      });
  }
}

export const forgetUnknown = (db: Db, key: string) => db.delete(unknownDevice).where(eq(unknownDevice.deviceKey, key));
