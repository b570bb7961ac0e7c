// Taking readings: held once, in the unit their channel is watched in, and judged by the rules of their machine. What several send at
// once is written together; whoever sent it is answered when it is durable.
import { group } from 'd3-array';
import { postReadings } from '#api/signals.ts';
import type { AssetId } from '#core/ids.ts';
import { isOfParts, readPack, type Sample } from '#core/signals/index.ts';
import type { Refusal } from '#core/refusal.ts';
import { instant, type Instant } from '#core/time/index.ts';
import type { Database } from '../platform/database.ts';
import { announce } from '../platform/live.ts';
import { accept, Refused } from '../platform/refuse.ts';
import { countMeters } from './count-meters.ts';
import { hold, noteNewest, noteStale } from './holding.ts';
import { goOn } from './judging.ts';
import { inWatchedUnits, locate, type Pack, type Spoken } from './locating.ts';
import { samplesAfter } from './series.ts';
import { shardOf } from './shards.ts';
import { inTurn, judgeLater, laneOf, watchOf, type Turn, type Watch } from './watch.ts';
import type { WatchedMachine } from './watched.ts';

export type Taken = {
  readonly taken: number;
  readonly alreadyHeld: number;
  readonly alerts: number;
  /** Records that were not taken, each with why. */
  readonly setAside: readonly Refusal[];
};

/** A pack that waits to be written, and whoever waits for that. */
type Waiting = Pack & { readonly done: (taken: Taken) => void; readonly failed: (error: unknown) => void };

/** What a server has read since it kept where rules stand is looked at again by whoever takes them up. */
export async function takeUp(
  turn: Turn,
  ids: readonly AssetId[],
  machineOf: (id: AssetId) => WatchedMachine | undefined,
  now: Instant,
): Promise<void> {
  const loaded = await turn.load(ids);
  const going = loaded.flatMap(({ assetId, ruleId }) => {
    const machine = machineOf(assetId);
    const rule = machine && turn.rulesOf(machine).find((r) => r.id === ruleId && !isOfParts(r));
    const standing = rule && turn.standing(ruleId, assetId);
    return rule && standing ? [{ rule, assetId, upTo: standing.state.upTo }] : [];
  });
  const read = await samplesAfter(
    turn.tx.db,
    going.map(({ rule, assetId, upTo }) => ({ assetId, channel: rule.channel, after: upTo })),
  );
  await goOn(
    turn,
    going.flatMap(({ rule, assetId, upTo }) => {
      const samples = (read.get(assetId)?.get(rule.channel) ?? []).filter((s) => s.at > upTo);
      return samples.length === 0 ? [] : [{ rule, assetId, samples, until: (samples.at(-1) as Sample).at }];
    }),
    now,
  );
}

const inOrder = (a: Sample, b: Sample): number => a.at - b.at;

/** What was taken of one machine's channel, in the order of its times. Of two devices that spoke at one instant the first counts. */
function samplesOf(spoken: readonly Spoken[]): Sample[] {
  const [only, ...more] = spoken;
  if (only && more.length === 0) return only.readings.toSorted(inOrder);
  const all = spoken.toSorted((a, b) => a.deviceId - b.deviceId).flatMap((s) => s.readings);
  return all.toSorted(inOrder).filter((r, i, sorted) => r.at !== sorted[i - 1]?.at);
}

type Later = { readonly assetId: AssetId; readonly channel: string; readonly from: Instant };

/** Judges what was taken of machines that are this server's; the rest, and what comes late, is left to be judged. */
async function judge(turn: Turn, fresh: readonly Spoken[], now: Instant): Promise<ReadonlyMap<AssetId, number>> {
  const going: Parameters<typeof goOn>[1][number][] = [];
  const later: Later[] = [];
  for (const [assetId, own] of group(fresh, (s) => s.assetId)) {
    const rules = turn.rulesOf((own[0] as Spoken).machine).filter((r) => !isOfParts(r));
    if (rules.length === 0) continue;
    for (const [of, spoken] of group(own, (s) => s.channel)) {
      const watching = rules.filter((r) => r.channel === of);
      const samples = watching.length === 0 ? [] : samplesOf(spoken);
      const [first, last] = [samples[0], samples.at(-1)];
      if (!first || !last) continue;
      const ends = turn.holds(assetId)
        ? watching.map((r) => turn.standing(r.id, assetId)?.state.upTo ?? null)
        : [last.at];
      if (ends.some((upTo) => upTo !== null && first.at <= upTo)) later.push({ assetId, channel: of, from: first.at });
      if (!turn.holds(assetId)) continue;
      watching.forEach((rule, i) => {
        const upTo = ends[i] ?? null;
        const isNew = (s: Sample): boolean =>
          (upTo === null || s.at > upTo) && (rule.watchedSince === null || s.at >= rule.watchedSince);
        const after = isNew(first) ? samples : samples.filter(isNew);
        if (after.length > 0) going.push({ rule, assetId, samples: after, until: last.at });
      });
    }
  }
  const alerts = await goOn(turn, going, now);
  if (later.length > 0) await judgeLater(turn.tx, later);
  return alerts;
}

/** Screens are told of readings that set off nothing at most so often. */
const TELL_EVERY_MS = 2000;
let toldAt = 0;

type Counts = { taken: number; alreadyHeld: number; alerts: number };

/** Adds up what became of what, for those who sent it. */
function count(
  counts: ReadonlyMap<Pack, Counts>,
  located: readonly Spoken[],
  fresh: readonly Spoken[],
  alerts: ReadonlyMap<AssetId, number>,
): void {
  const told = new Map(alerts);
  for (const { assetId, readings } of located)
    for (const r of readings) {
      const own = counts.get(r.pack) as Counts;
      own.alreadyHeld += 1;
      own.alerts += told.get(assetId) ?? 0;
      told.delete(assetId);
    }
  for (const { readings } of fresh)
    for (const r of readings) {
      const own = counts.get(r.pack) as Counts;
      own.taken += 1;
      own.alreadyHeld -= 1;
    }
}

/** A lot's place in the line: after the one before, and ahead of the next once it is taken. */
type Place = { readonly before: Promise<void>; readonly taken: () => void };

/** Writes some packs together, in one transaction; each is answered for itself. */
async function write(
  database: Database,
  watch: Watch,
  packs: readonly Waiting[],
  place: Place,
): Promise<Map<Waiting, Taken>> {
  const now = instant(Math.max(...packs.map((p) => p.now)));
  const all = await locate(database.db, packs);
  await place.before;
  const counts = new Map(packs.map((p): [Pack, Counts] => [p, { taken: 0, alreadyHeld: 0, alerts: 0 }]));
  let toTell = Date.now() - toldAt > TELL_EVERY_MS;
  if (toTell) toldAt = Date.now();
  const writeLane = async (own: readonly Spoken[]): Promise<void> => {
    const machines = new Map(own.map((s) => [s.assetId, s.machine]));
    const shards = [...new Set(own.map((s) => shardOf(s.assetId)))];
    const { located, fresh, alerts } = await inTurn(database, watch, shards, now, async (turn) => {
      const ids = [...machines.keys()].filter((id) => turn.holds(id));
      await takeUp(turn, ids, (id) => machines.get(id), now);
      const spoken = await inWatchedUnits(turn, own);
      const held = await hold(turn.tx, spoken);
      await noteNewest(turn.tx, held);
      await noteStale(turn.tx, held, now);
      const started = await judge(turn, held, now);
      await countMeters(turn.tx, held, now);
      if (started.size > 0 || toTell) await announce(turn.tx, postReadings);
      return { located: spoken, fresh: held, alerts: started };
    });
    toTell = false;
    count(counts, located, fresh, alerts);
  };
  const lanes = [...group(all, (s) => laneOf(shardOf(s.assetId))).values()].map(writeLane);
  place.taken();
  await Promise.all(lanes);
  return new Map(packs.map((p) => [p, { ...(counts.get(p) as Counts), setAside: p.setAside }]));
}

/** So many readings are written together at most. */
const AT_ONCE = 2000;

/** So many lots are under way at a time: while one is written, the next is located. */
const LOTS = 2;

type Intake = {
  waiting: Waiting[];
  running: number;
  /** Whether the lot before has its place in the line: what came first is judged first. */
  inLine: Promise<void>;
};
const intakes = new WeakMap<Database, Intake>();

async function writeSome(database: Database, watch: Watch, packs: readonly Waiting[], place: Place): Promise<void> {
  try {
    const answers = await write(database, watch, packs, place);
    for (const [pack, taken] of answers)
      if (taken.taken + taken.alreadyHeld === 0) pack.failed(new Refused(taken.setAside.slice(0, 20)));
      else pack.done(taken);
  } catch (error) {
    // One of them may be what breaks it: each by itself.
    if (packs.length === 1) packs[0]?.failed(error);
    else for (const pack of packs) await writeSome(database, watch, [pack], place);
  } finally {
    place.taken();
  }
}

async function writeWaiting(database: Database, watch: Watch, intake: Intake): Promise<void> {
  while (intake.waiting.length > 0) {
    // Whatever has come by now is written with it.
    await new Promise((next) => setImmediate(next));
    if (intake.waiting.length === 0) break;
    let n = 0;
    const end = intake.waiting.findIndex((p, i) => (n += p.readings.length) > AT_ONCE && i > 0);
    const packs = intake.waiting.splice(0, end < 0 ? intake.waiting.length : end);
    const before = intake.inLine;
    let taken = (): void => undefined;
    intake.inLine = new Promise((done) => (taken = done));
    await writeSome(database, watch, packs, { before, taken });
    watch.wake();
  }
  intake.running -= 1;
}

/** Takes a parsed SenML pack: what of it can be read is held, in one transaction with what it sets off; the rest is named. */
export async function takePack(database: Database, pack: unknown, now: Instant): Promise<Taken> {
  const { readings, setAside } = accept(readPack(pack, now));
  const intake = intakes.get(database) ?? { waiting: [], running: 0, inLine: Promise.resolve() };
  intakes.set(database, intake);
  return new Promise((done, failed) => {
    intake.waiting.push({ readings, setAside: [...setAside], now, done, failed });
    if (intake.running >= LOTS) return;
    intake.running += 1;
    void writeWaiting(database, watchOf(database), intake);
  });
}
