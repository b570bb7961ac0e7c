// A rule tried on the past: what it would have found in the readings that are held, beside what the kept one would. Run on a thread.
import { and, asc, count, eq, gte, inArray, isNull, lt, lte, or } from 'drizzle-orm';
import type { BodyOf } from '#api/contract.ts';
import type { Tried, tryAlertRule } from '#api/alert-rules.ts';
import {
  activeParts,
  activeSpans,
  advance,
  isOfParts,
  isPartOf,
  nearestRules,
  nearness,
  sayExcess,
  seriesRule,
  watchedFrom,
  type Happened,
  type RuleScope,
  type Sample,
  type Watching,
} from '#core/signals/index.ts';
import type { AssetId } from '#core/ids.ts';
import { DAY, instant, type Instant } from '#core/time/index.ts';
import { asset } from '../assets/tables.ts';
import type { Db } from '../platform/database.ts';
import { refuse } from '../platform/refuse.ts';
import { samplesAfter } from './series.ts';
import { alertRule, deviceTie, reading } from './tables.ts';

const ALERTS_SHOWN = 60;
const MACHINES_AT_ONCE = 20;
/** More than a year of one machine at a minute's raster, all machines together. */
const MOST_READINGS = 2_000_000;

type Tryable = Watching & RuleScope & { readonly name: string; readonly watched: boolean };
type Machine = { readonly id: AssetId; readonly classId: number; readonly model: string; readonly tag: string };

const channelsOf = (rules: readonly Tryable[]): string[] => [
  ...new Set(rules.filter((r) => !isOfParts(r)).map((r) => r.channel)),
];

/** Machines of a class that a device was on, each with how much it said on some channels in a time. */
async function machinesIn(db: Db, classId: number, channels: readonly string[], from: Instant, to: Instant) {
  return db
    .select({
      ...{ id: asset.id, classId: asset.classId, model: asset.model, tag: asset.tag },
      n: count(reading.at),
    })
    .from(asset)
    .innerJoin(deviceTie, eq(deviceTie.assetId, asset.id))
    .innerJoin(
      reading,
      and(
        eq(reading.deviceId, deviceTie.deviceId),
        gte(reading.at, deviceTie.from),
        or(isNull(deviceTie.to), lt(reading.at, deviceTie.to)),
        inArray(reading.channel, [...channels]),
        gte(reading.at, from),
        lte(reading.at, to),
      ),
    )
    .where(eq(asset.classId, classId as never))
    .groupBy(asset.id)
    .orderBy(asc(asset.tag));
}

/** Adds what one machine would have raised. */
function addTo(sum: Tried, rule: Tryable, machine: Machine, happened: readonly Happened[], to: Instant): void {
  let open: (typeof sum.shown)[number] | null = null;
  const close = (at: Instant | null, worst: number | null): void => {
    if (!open) return;
    sum.seconds += Math.round(((at ?? to) - open.from) / 1000);
    if (at === null) sum.active += 1;
    if (sum.shown.length < ALERTS_SHOWN) sum.shown.push({ ...open, to: at, text: sayExcess(rule, worst) });
    open = null;
  };
  for (const turn of happened) {
    if (turn.kind === 'ended') {
      close(turn.at, turn.worst);
      continue;
    }
    sum.alerts += 1;
    open = { assetId: machine.id, tag: machine.tag, model: machine.model, from: turn.from, to: null, text: '' };
    open.text = sayExcess(rule, turn.worst);
  }
  if (open) close(null, happened.at(-1)?.worst ?? null);
}

type Counted = Awaited<ReturnType<typeof machinesIn>>;

/** A rule and, where it is made of others, all that it is made of, over others too; each name once. */
function withParts(rule: Tryable, rules: readonly Tryable[]): Tryable[] {
  const all = [rule];
  for (let i = 0; i < all.length; i += 1)
    for (const part of rules)
      if (isPartOf(part.name, all[i] as Tryable) && !all.includes(part) && part.name !== rule.name) all.push(part);
  return all;
}

/** What a rule would have found at a machine: in readings, or in what its parts would have found. */
function foundBy(
  rule: Tryable,
  parts: readonly Tryable[],
  read: ReadonlyMap<string, readonly Sample[]>,
  from: Instant,
  to: Instant,
): readonly Happened[] {
  const others = parts.filter((p) => p !== rule);
  const samples = isOfParts(rule)
    ? activeParts(
        others.filter((p) => isPartOf(p.name, rule)).map((p) => activeSpans(foundBy(p, others, read, from, to))),
      )
    : (read.get(rule.channel) ?? []);
  return advance(seriesRule(rule), watchedFrom(from), samples, to).happened;
}

async function tryOne(
  db: Db,
  rule: Tryable,
  rules: readonly Tryable[],
  machines: Counted,
  from: Instant,
  to: Instant,
): Promise<Tried> {
  const sum: Tried = { machines: 0, readings: 0, alerts: 0, seconds: 0, active: 0, shown: [] };
  const own = rule.watched ? machines.filter((m) => nearness(rule, m) > 0) : [];
  for (let i = 0; i < own.length; i += MACHINES_AT_ONCE) {
    const some = own.slice(i, i + MACHINES_AT_ONCE);
    const partsOf = new Map(some.map((m) => [m.id, withParts(rule, nearestRules(rules, m))]));
    const series = some.flatMap((m) =>
      channelsOf(partsOf.get(m.id) ?? []).map((channel) => ({ assetId: m.id, channel, after: instant(from - 1) })),
    );
    const samples = await samplesAfter(db, series, to);
    for (const machine of some) {
      const read = samples.get(machine.id);
      if (!read) continue;
      sum.machines += 1;
      for (const own of read.values()) sum.readings += own.length;
      addTo(sum, rule, machine, foundBy(rule, partsOf.get(machine.id) ?? [], read, from, to), to);
    }
  }
  sum.shown.sort((a, b) => b.from - a.from);
  return sum;
}

export async function tryRule(
  db: Db,
  { days, ruleId, ...rule }: BodyOf<typeof tryAlertRule>,
  now: Instant,
): Promise<{ tried: Tried; kept: Tried | null; leftOut: number }> {
  const from = instant(now - days * DAY);
  const [kept] = ruleId === null ? [] : await db.select().from(alertRule).where(eq(alertRule.id, ruleId));
  if (ruleId !== null && !kept) refuse('not-found', 'That alert rule does not exist.');
  // Parts of it are as they are kept.
  const rules = await db.select().from(alertRule).where(eq(alertRule.assetClassId, rule.assetClassId));
  const channels = channelsOf([rule, ...(kept ? [kept] : [])].flatMap((r) => withParts(r, rules)));
  const all = await machinesIn(db, rule.assetClassId, channels, from, now);
  let left = MOST_READINGS;
  const machines = all.filter((m) => (left -= m.n) >= 0);
  return {
    tried: await tryOne(db, rule, rules, machines, from, now),
    kept: kept ? await tryOne(db, kept, rules, machines, from, now) : null,
    leftOut: all.length - machines.length,
  };
}
