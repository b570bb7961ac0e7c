// What the phone keeps: who it belongs to, the days and orders it holds, the acts that wait, and the photos they name.
import { openDB, type DBSchema, type IDBPDatabase } from 'idb';
import type { FieldBody, FieldDays, FieldOrder } from '#api/field.ts';
import type { PhoneAct, Queue } from '#core/field/index.ts';
import type { Instant } from '#core/time/index.ts';

export type Owner = { readonly id: number; readonly name: string; readonly email: string; readonly zone: string };

/** One record each: read and written whole, in one transaction with what must hold with it. */
export type Held = {
  readonly owner: Owner | null;
  readonly days: FieldDays | null;
  readonly queue: Queue<FieldBody>;
  /** Taken by the server, and not yet in what the phone holds of their orders. */
  readonly taken: readonly PhoneAct<FieldBody>[];
  /** How far the server's clock is ahead, in milliseconds; the time itself where its clock stands still, as in a demo. */
  readonly clock: { readonly offset: number; readonly fixed: Instant | null };
  /** When the server last answered, by the phone's clock. */
  readonly heardAt: Instant | null;
};

export const NOTHING: Held = {
  ...{ owner: null, days: null, queue: [], taken: [], heardAt: null },
  clock: { offset: 0, fixed: null },
};

type Photo = { readonly id: string; readonly name: string; readonly type: string; readonly bytes: ArrayBuffer };

interface Kept extends DBSchema {
  held: { key: keyof Held; value: unknown };
  orders: { key: number; value: FieldOrder };
  photos: { key: string; value: Photo };
  /** What was typed and not kept yet, by the form it was typed into. */
  drafts: { key: string; value: unknown };
}

const STORES = ['held', 'orders', 'photos', 'drafts'] as const;

export type Keep = {
  read(): Promise<{ readonly held: Held; readonly orders: ReadonlyMap<number, FieldOrder> }>;
  /** Changes what is held by what stands there, whichever window of the phone wrote it last; gives what holds then. */
  change(how: (held: Held) => Held, orders?: OrderChange): Promise<Held>;
  /** Changes the queue alone: whoever did something waits for nothing else that is kept. */
  changeQueue(how: (queue: Held['queue']) => Held['queue']): Promise<Held['queue']>;
  keepPhoto(photo: Photo): Promise<void>;
  photo(id: string): Promise<Photo | undefined>;
  forgetPhotos(ids: readonly string[]): Promise<void>;
  draft(key: string): Promise<unknown>;
  keepDraft(key: string, value: unknown): Promise<void>;
  /** Nothing of anybody is left on the phone. */
  wipe(): Promise<void>;
  close(): void;
};
export type OrderChange = { readonly put: readonly FieldOrder[]; readonly keep: ReadonlySet<number> };

const opened = (name: string): Promise<IDBPDatabase<Kept>> =>
  openDB<Kept>(name, 1, {
    upgrade(db) {
      db.createObjectStore('held');
      db.createObjectStore('orders');
      db.createObjectStore('photos');
      db.createObjectStore('drafts');
    },
  });

const KEYS = Object.keys(NOTHING) as (keyof Held)[];

export async function openKeep(name = 'stavok-field'): Promise<Keep> {
  const db = await opened(name);
  return {
    async read() {
      const tx = db.transaction(['held', 'orders']);
      const values = await Promise.all(KEYS.map((key) => tx.objectStore('held').get(key)));
      const orders = await tx.objectStore('orders').getAll();
      await tx.done;
      const kept = Object.fromEntries(KEYS.flatMap((key, i) => (values[i] === undefined ? [] : [[key, values[i]]])));
      return { held: { ...NOTHING, ...kept }, orders: new Map(orders.map((o) => [o.page.id, o])) };
    },
    async change(how, orders) {
      // Written through to the disk: a battery that dies the moment after loses nothing.
      const tx = db.transaction(['held', 'orders'], 'readwrite', { durability: 'strict' });
      const store = tx.objectStore('held');
      const values = await Promise.all(KEYS.map((key) => store.get(key)));
      const kept = Object.fromEntries(KEYS.flatMap((key, i) => (values[i] === undefined ? [] : [[key, values[i]]])));
      const before: Held = { ...NOTHING, ...kept };
      const after = how(before);
      const writes: Promise<unknown>[] = KEYS.filter((key) => after[key] !== before[key]).map((key) =>
        store.put(after[key], key),
      );
      if (orders) {
        const held = tx.objectStore('orders');
        writes.push(...orders.put.map((o) => held.put(o, o.page.id)));
        for (const id of await held.getAllKeys()) if (!orders.keep.has(id)) writes.push(held.delete(id));
      }
      await Promise.all([...writes, tx.done]);
      return after;
    },
    async changeQueue(how) {
      const tx = db.transaction('held', 'readwrite', { durability: 'strict' });
      const before = ((await tx.store.get('queue')) ?? NOTHING.queue) as Held['queue'];
      const after = how(before);
      await Promise.all([...(after === before ? [] : [tx.store.put(after, 'queue')]), tx.done]);
      return after;
    },
    keepPhoto: async (photo) => void (await db.put('photos', photo, photo.id)),
    photo: (id) => db.get('photos', id),
    async forgetPhotos(ids) {
      const tx = db.transaction('photos', 'readwrite');
      await Promise.all([...ids.map((id) => tx.store.delete(id)), tx.done]);
    },
    draft: (key) => db.get('drafts', key),
    keepDraft: async (key, value) =>
      void (value === null ? await db.delete('drafts', key) : await db.put('drafts', value, key)),
    async wipe() {
      const tx = db.transaction([...STORES], 'readwrite');
      await Promise.all([...STORES.map((s) => tx.objectStore(s).clear()), tx.done]);
    },
    close: () => db.close(),
  };
}
