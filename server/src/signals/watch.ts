// The watch of one server: where rules stand with the machines it holds the shards of, kept in memory between readings. The database has
// each of them as of some moment before; what was read since is looked at again by whoever takes it up. So a reading costs no more than
// its row, and nothing is lost with a server.
import { randomUUID } from 'node:crypto';
import { and, eq, inArray, sql } from 'drizzle-orm';
import type { AlertRuleId, AssetId } from '#core/ids.ts';
import { nearestRules, type Mask, type WatchState } from '#core/signals/index.ts';
import { HOUR, instant, MINUTE, type Instant } from '#core/time/index.ts';
import { instantText } from '../platform/columns.ts';
import { bulkInsert, isTaken, type Database, type Tx } from '../platform/database.ts';
import { OVERLAP_IDS } from '../platform/live.ts';
import { outOfService, workedOnSince, type WorkedOn } from './out-of-service.ts';
import { ALL_SHARDS, claim, lockShards, renew, shardOf, SHARDS, type Lease } from './shards.ts';
import { alertRule, ruleState } from './tables.ts';
import type { Rule, WatchedMachine } from './watched.ts';

/** Where a rule stands with a machine, and what the database has of it. */
export type Standing = {
  readonly state: WatchState;
  /** When something happens by itself; null: only a reading changes it. */
  readonly dueAt: Instant | null;
  /** As the database has it; null: it has no row yet. */
  readonly kept: { readonly upTo: Instant; readonly dueAt: Instant | null } | null;
  /** The newest checkpoint; null: none. */
  readonly checkpointAt: Instant | null;
};

type Standings = Map<AssetId, Map<AlertRuleId, Standing>>;

type Memory = {
  epoch: number;
  /** Of the shards it remembers machines of: how often each had been taken by then. */
  readonly taken: Map<number, number>;
  rules: readonly Rule[] | null;
  readonly rulesOf: Map<AssetId, { readonly machine: WatchedMachine; readonly rules: Rule[] }>;
  readonly standings: Standings;
  readonly masks: Map<AssetId, readonly Mask[]>;
  /** Up to which event orders were looked at, and those of late that were. */
  eventsUpTo: number | null;
  readonly eventsSeen: Set<number>;
};

export type Watch = {
  readonly me: string;
  readonly memory: Memory;
  /** One piece of work after the other in each lane: what is remembered of a shard has one owner at a time. */
  readonly lines: Promise<unknown>[];
  /** Wakes whoever does what waits to be judged. */
  wake: () => void;
  /** The shards it held when it last looked; what counts is read in each transaction. */
  held: ReadonlySet<number>;
};

/** While the database writes for one lane, what another has read is judged. */
const LANES = 2;
export const laneOf = (shard: number): number => shard % LANES;

const watches = new WeakMap<Database, Watch>();

/** The watch that this process keeps over a database. */
export function watchOf(database: Database): Watch {
  const known = watches.get(database);
  if (known) return known;
  const watch: Watch = {
    me: randomUUID(),
    memory: {
      ...{ epoch: 0, taken: new Map(), rules: null, rulesOf: new Map(), standings: new Map() },
      ...{ masks: new Map(), eventsUpTo: null, eventsSeen: new Set() },
    },
    lines: Array.from({ length: LANES }, () => Promise.resolve()),
    wake: () => undefined,
    held: new Set(),
  };
  watches.set(database, watch);
  return watch;
}

/** What one transaction sees and changes of it: remembered only once it has been committed. */
export type Turn = {
  readonly tx: Tx;
  /** Whether the machine is this server's to judge. */
  holds(id: AssetId): boolean;
  rulesOf(machine: WatchedMachine): readonly Rule[];
  /** Those of a machine whose rules were asked for already. */
  watchedBy(id: AssetId): readonly Rule[];
  standing(ruleId: AlertRuleId, assetId: AssetId): Standing | null;
  put(ruleId: AlertRuleId, assetId: AssetId, standing: Standing): void;
  drop(ruleId: AlertRuleId, assetId: AssetId): void;
  /** Loads what is not remembered of some machines; gives the rules that were loaded, for what was read since to be looked at. */
  load(assetIds: readonly AssetId[]): Promise<readonly { readonly assetId: AssetId; readonly ruleId: AlertRuleId }[]>;
  /** What the database has of one that is not remembered, for it was begun by somebody else. */
  find(ruleId: AlertRuleId, assetId: AssetId): Promise<Standing | null>;
  /** When machines are out of service, as far back as their standings go. */
  masksOf(id: AssetId): readonly Mask[];
};

async function loadStandings(tx: Tx, ids: readonly AssetId[]): Promise<Standings> {
  const found: Standings = new Map(ids.map((id) => [id, new Map()]));
  if (ids.length === 0) return found;
  const rows = await tx.db
    .select()
    .from(ruleState)
    .where(inArray(ruleState.assetId, [...ids]));
  for (const { assetId, ruleId, lastAt, dueAt, checkpointAt, state } of rows)
    found.get(assetId)?.set(ruleId, { state, dueAt, kept: { upTo: lastAt, dueAt }, checkpointAt });
  return found;
}

/** What was recorded of work on machines may lie before what was judged of them: that is judged again from there. */
async function judgeFromWork(tx: Tx, news: readonly WorkedOn[]): Promise<void> {
  if (news.length === 0) return;
  const watched = await tx.db
    .selectDistinct({ id: ruleState.assetId })
    .from(ruleState)
    .where(inArray(ruleState.assetId, [...new Set(news.map((e) => e.assetId))]));
  const ids = new Set(watched.map((w) => w.id));
  await judgeLater(
    tx,
    news.filter((e) => ids.has(e.assetId)).map((e) => ({ assetId: e.assetId, channel: null, from: e.at })),
  );
}

/** What stands for a channel where only rules made of others are judged again: no device's is called so. */
export const OF_PARTS = '(other rules)';

/** Leaves what is to be judged again from some instant to whoever watches it; without a channel, by every rule. */
export async function judgeLater(
  tx: Tx,
  all: readonly { readonly assetId: AssetId; readonly channel: string | null; readonly from: Instant }[],
): Promise<void> {
  await bulkInsert(
    tx.connection,
    'to_judge',
    ['shard', 'asset_id', 'channel', 'from'],
    all.map(({ assetId, channel, from }) => [shardOf(assetId), assetId, channel, instantText(from)]),
  );
}

type Seen = {
  readonly leases: readonly Lease[];
  readonly held: ReadonlySet<number>;
  readonly epoch: number;
  readonly rules: readonly Rule[];
  readonly rulesOf: Memory['rulesOf'];
  readonly loaded: Standings;
  readonly changed: ReadonlyMap<AssetId, ReadonlyMap<AlertRuleId, Standing | null>>;
  readonly masks: ReadonlyMap<AssetId, readonly Mask[]>;
  readonly workedOn: ReadonlySet<AssetId>;
  readonly news: readonly WorkedOn[];
  readonly eventsUpTo: number;
};

/** Remembers what a turn saw and changed, of the shards that are held; called once it has been committed. */
function remember(watch: Watch, seen: Seen): void {
  const { memory } = watch;
  const { leases, held, epoch, rules, rulesOf, loaded, changed, masks, workedOn, news, eventsUpTo } = seen;

  // Of several lanes the first that sees it forgets.
  if (memory.epoch !== epoch) {
    memory.standings.clear();
    memory.taken.clear();
  }
  for (const { id, taken } of leases)
    if (memory.taken.get(id) !== taken || !held.has(id)) {
      for (const assetId of memory.standings.keys()) if (shardOf(assetId) === id) memory.standings.delete(assetId);
      if (held.has(id)) memory.taken.set(id, taken);
      else memory.taken.delete(id);
    }
  // What turned out to be another's, or nobody's, is asked for again before the next turn.
  if (leases.some((l) => !held.has(l.id) && watch.held.has(l.id)))
    watch.held = new Set([...watch.held].filter((id) => held.has(id) || !leases.some((l) => l.id === id)));
  Object.assign(memory, { epoch, rules, rulesOf, eventsUpTo });
  for (const { eventId } of news) memory.eventsSeen.add(eventId);
  for (const id of memory.eventsSeen) if (id < eventsUpTo - 2 * OVERLAP_IDS) memory.eventsSeen.delete(id);
  for (const id of workedOn) memory.masks.delete(id);
  for (const [id, own] of masks) memory.masks.set(id, own);
  for (const [id, own] of loaded) if (held.has(shardOf(id))) memory.standings.set(id, own);
  for (const [id, own] of changed) {
    if (!held.has(shardOf(id))) continue;
    const known = memory.standings.get(id) ?? new Map<AlertRuleId, Standing>();
    for (const [ruleId, standing] of own)
      if (standing === null) known.delete(ruleId);
      else known.set(ruleId, standing);
    memory.standings.set(id, known);
  }
}

async function beginTurn(
  tx: Tx,
  watch: Watch,
  shards: readonly number[],
  now: Instant,
): Promise<Turn & { end(): void }> {
  const { memory, me } = watch;
  const leases = await lockShards(tx, shards);
  const held = new Set(leases.filter((l) => l.holder === me).map((l) => l.id));
  const epoch = leases[0]?.epoch ?? 0;
  const isFresh = epoch === memory.epoch;
  // A shard that was somebody else's meanwhile is looked at anew, as everything is once rules have changed.
  const takenBy = new Map(leases.map((l) => [l.id, l.taken]));
  const isKnown = (id: AssetId): boolean => {
    const known = isFresh ? memory.taken.get(shardOf(id)) : undefined;
    return known !== undefined && known === takenBy.get(shardOf(id));
  };
  const rules = (isFresh ? memory.rules : null) ?? (await tx.db.select().from(alertRule).orderBy(alertRule.id));
  const rulesOf = isFresh ? memory.rulesOf : new Map<AssetId, { machine: WatchedMachine; rules: Rule[] }>();
  const loaded: Standings = new Map();
  const changed: Map<AssetId, Map<AlertRuleId, Standing | null>> = new Map();
  const worked = await workedOnSince(tx.db, memory.eventsUpTo, now);
  const news = worked.found.filter((e) => !memory.eventsSeen.has(e.eventId));
  const workedOn = new Set(news.map((e) => e.assetId));
  await judgeFromWork(tx, news);
  const masks = new Map<AssetId, readonly Mask[]>();
  const masksOf = (id: AssetId) => masks.get(id) ?? (workedOn.has(id) ? undefined : memory.masks.get(id));
  const remembered = (id: AssetId) => loaded.get(id) ?? (isKnown(id) ? memory.standings.get(id) : undefined);
  const standing = (ruleId: AlertRuleId, assetId: AssetId): Standing | null => {
    const own = changed.get(assetId)?.get(ruleId);
    return own === undefined ? (remembered(assetId)?.get(ruleId) ?? null) : own;
  };
  const change = (ruleId: AlertRuleId, assetId: AssetId, standing: Standing | null): void => {
    const own = changed.get(assetId) ?? new Map<AlertRuleId, Standing | null>();
    changed.set(assetId, own.set(ruleId, standing));
  };
  return {
    tx,
    holds: (id) => held.has(shardOf(id)),
    rulesOf(machine) {
      const known = rulesOf.get(machine.id);
      const { classId, model, state } = known?.machine ?? {};
      if (known && classId === machine.classId && model === machine.model && state === machine.state)
        return known.rules;
      const own = machine.state === 'retired' ? [] : nearestRules(rules, machine);
      rulesOf.set(machine.id, { machine, rules: own });
      return own;
    },
    watchedBy: (id) => rulesOf.get(id)?.rules ?? [],
    standing,
    async find(ruleId, assetId) {
      const found = standing(ruleId, assetId) ?? (await loadStandings(tx, [assetId])).get(assetId)?.get(ruleId) ?? null;
      if (found) change(ruleId, assetId, found);
      return found;
    },
    put: change,
    drop: (ruleId, assetId) => change(ruleId, assetId, null),
    async load(ids) {
      const missing = ids.filter((id) => !remembered(id));
      for (const [id, own] of await loadStandings(tx, missing)) loaded.set(id, own);
      const unmasked = ids.filter((id) => !masksOf(id));
      for (const [id, own] of await outOfService(tx.db, unmasked, instant(now - MASKS_BACK))) masks.set(id, own);
      return missing.flatMap((assetId) =>
        [...(loaded.get(assetId)?.keys() ?? [])].map((ruleId) => ({ assetId, ruleId })),
      );
    },
    masksOf: (id) => masksOf(id) ?? [],
    end: () =>
      remember(watch, {
        ...{ leases, held, epoch, rules, rulesOf, loaded, changed },
        ...{ masks, workedOn, news, eventsUpTo: worked.upTo },
      }),
  };
}

/** What is read so late is held, but judged no more. */
export const LATE_MS = 8 * 24 * HOUR;
const MASKS_BACK = LATE_MS + 24 * HOUR;

/** Takes what nobody holds any more, and goes on holding what is held. */
export async function holdShards({ db }: Pick<Database, 'db'>, watch: Watch): Promise<void> {
  await claim(db, watch.me, ALL_SHARDS);
  watch.held = new Set((await renew(db, watch.me)).filter((id) => id < SHARDS));
}

/** Does something with machines of some shards, in one transaction; what it found is remembered after that. */
export function inTurn<T>(
  database: Pick<Database, 'db' | 'transact'>,
  watch: Watch,
  shards: readonly number[],
  now: Instant,
  work: (turn: Turn) => Promise<T>,
): Promise<T> {
  const run = async (): Promise<T> => {
    if (shards.some((id) => !watch.held.has(id))) await holdShards(database, watch);
    const attempt = () =>
      database.transact(async (tx) => {
        const begun = await beginTurn(tx, watch, shards, now);
        return { value: await work(begun), turn: begun };
        // Lanes and servers tell alerts of one place at once: who comes second is to see what the first has told.
      }, 'the latest');
    // What two lanes made at once, as an order's number, is found by the second when it looks again.
    const { value, turn } = await attempt().catch((error: unknown) => {
      if (!isTaken(error)) throw error;
      return attempt();
    });
    turn.end();
    return value;
  };
  const lanes = [...new Set(shards.map(laneOf))];
  const done = Promise.all(lanes.map((lane) => watch.lines[lane] ?? Promise.resolve())).then(run);
  for (const lane of lanes) watch.lines[lane] = done.catch(() => undefined);
  return done;
}

/** How far apart what readings read late are judged from is kept. */
export const CHECKPOINT_EVERY = 6 * HOUR;
/** What the database has is at most so far behind, while readings come: what was read since is read again by whoever takes over. */
export const KEEP_EVERY = 3 * MINUTE;

type Writing = { readonly ruleId: AlertRuleId; readonly assetId: AssetId; readonly standing: Standing };

/** Writes where rules stand, with a checkpoint where the last one is old; gives them as they are kept now. */
export async function keepStandings(turn: Turn, all: readonly Writing[]): Promise<void> {
  if (all.length === 0) return;
  const kept = all.map(({ standing, ...which }) => {
    const { state, dueAt, checkpointAt } = standing;
    const isNew = checkpointAt === null || state.upTo - checkpointAt >= CHECKPOINT_EVERY;
    return {
      ...which,
      isNew,
      standing: {
        ...{ state, dueAt, kept: { upTo: state.upTo, dueAt } },
        checkpointAt: isNew ? state.upTo : checkpointAt,
      } satisfies Standing,
    };
  });
  const row = ({ ruleId, assetId, standing: { state, dueAt, checkpointAt } }: (typeof kept)[number]) => [
    ...[ruleId, assetId, instantText(state.upTo), dueAt && instantText(dueAt)],
    ...[checkpointAt && instantText(checkpointAt), JSON.stringify(state)],
  ];
  await bulkInsert(
    turn.tx.connection,
    'rule_state',
    ['rule_id', 'asset_id', 'last_at', 'due_at', 'checkpoint_at', 'state'],
    kept.map(row),
    'ON DUPLICATE KEY UPDATE last_at = VALUES(last_at), due_at = VALUES(due_at), checkpoint_at = VALUES(checkpoint_at), state = VALUES(state)',
  );
  const checkpoints = kept.filter((k) => k.isNew);
  if (checkpoints.length > 0)
    await bulkInsert(
      turn.tx.connection,
      'rule_checkpoint',
      ['rule_id', 'asset_id', 'at', 'state'],
      checkpoints.map(({ ruleId, assetId, standing: { state } }) => [
        ...[ruleId, assetId, instantText(state.upTo), JSON.stringify(state)],
      ]),
      'ON DUPLICATE KEY UPDATE state = VALUES(state)',
    );
  for (const { ruleId, assetId, standing } of kept) turn.put(ruleId, assetId, standing);
}

/** Checkpoints too old to judge anything from, but for the newest of each. */
export const forgetCheckpoints = (database: Pick<Database, 'db'>, now: Instant) =>
  database.db.execute(sql`
    delete old from rule_checkpoint old
    join rule_checkpoint newer on newer.asset_id = old.asset_id and newer.rule_id = old.rule_id and newer.at > old.at
    where old.at < ${instantText(instant(now - LATE_MS))} and newer.at < ${instantText(instant(now - LATE_MS))}`);

export const standingRow = (ruleId: AlertRuleId, assetId: AssetId) =>
  and(eq(ruleState.ruleId, ruleId), eq(ruleState.assetId, assetId));
